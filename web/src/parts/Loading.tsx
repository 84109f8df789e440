import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';

/** Something is on its way. The bar is drawn here: every page waits for what this imports. */
export function Loading({ what }: { what: string }) {
    return (
        <Stack spacing={1} sx={{ p: 4, maxWidth: 320 }} role="status">
            <Typography>{what} …</Typography>
            <Box
                role="progressbar"
                aria-label={what}
                sx={{
                    height: 4,
                    bgcolor: 'divider',
                    overflow: 'hidden',
                    '&::after': { content: '""', display: 'block', height: '100%', width: '40%', bgcolor: 'primary.main', animation: 'passes 1.4s ease-in-out infinite' },
                    '@keyframes passes': { from: { transform: 'translateX(-100%)' }, to: { transform: 'translateX(250%)' } },
                }}
            />
        </Stack>
    );
}
