import Alert from '@mui/material/Alert';
import { inUnits } from '../units/said';

/** A refusal, in the server's own sentence. */
export function ProblemNote({ error }: { error: Error }) {
    return (
        <Alert severity="error" variant="outlined" sx={{ color: 'text.primary', bgcolor: 'background.paper' }}>
            {inUnits(error.message)}
        </Alert>
    );
}
