import Alert from '@mui/material/Alert';

/** A refusal, in the server's own sentence. */
export function ProblemNote({ error }: { error: Error }) {
    return (
        <Alert severity="error" variant="outlined" sx={{ color: 'text.primary', bgcolor: 'background.paper' }}>
            {error.message}
        </Alert>
    );
}
