import Box from '@mui/material/Box';
import type { ReactNode } from 'react';

interface Props {
    children: ReactNode;
    margin: ReactNode;
    /** Whether the margin stays in sight beside a long sheet. */
    follows?: boolean;
    /** Whether the margin gives its room to the sheet. */
    isFolded?: boolean;
}

/** A sheet with its margin: evidence and provenance of what is selected stand at the right. */
export function WithMargin({ children, margin, follows = false, isFolded = false }: Props) {
    return (
        <Box
            sx={{
                flex: 1,
                display: 'grid',
                gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: isFolded ? 'minmax(0, 1fr)' : 'minmax(0, 1fr) 292px' },
                minWidth: 0,
            }}
        >
            <Box sx={{ p: { xs: 1.5, md: 2 }, minWidth: 0 }}>{children}</Box>
            {!isFolded && <Box
                component="aside"
                aria-label="Margin"
                sx={{
                    p: 2,
                    borderStyle: 'solid',
                    borderWidth: { xs: '1px 0 0', md: '0 0 0 1px' },
                    borderColor: 'divider',
                    bgcolor: 'background.paper',
                    minWidth: 0,
                }}
            >
                {follows ? (
                    // Stays in sight beside a long list.
                    <Box sx={{ position: { md: 'sticky' }, top: 16, maxHeight: { md: 'calc(100vh - 32px)' }, overflowY: { md: 'auto' }, pt: 0.75 }}>{margin}</Box>
                ) : (
                    margin
                )}
            </Box>}
        </Box>
    );
}
