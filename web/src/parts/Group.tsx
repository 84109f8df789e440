import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';

/** Fields that belong together, under their name. */
export function Group({ title, columns, children }: { title: string; columns?: string; children: ReactNode }) {
    return (
        <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, mb: 2, minWidth: 0 }}>
            <Typography component="legend" variant="h3" sx={{ mb: 1 }}>
                {title}
            </Typography>
            <Box
                sx={{
                    display: 'grid',
                    gap: 1.5,
                    gridTemplateColumns: { xs: '1fr', sm: columns ?? 'repeat(4, minmax(0, 1fr))' },
                }}
            >
                {children}
            </Box>
        </Box>
    );
}
