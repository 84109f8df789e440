import LinearProgress from '@mui/material/LinearProgress';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';

/** Something is on its way. */
export function Loading({ what }: { what: string }) {
    return (
        <Stack spacing={1} sx={{ p: 4, maxWidth: 320 }} role="status">
            <Typography>{what} …</Typography>
            <LinearProgress aria-label={what} />
        </Stack>
    );
}
