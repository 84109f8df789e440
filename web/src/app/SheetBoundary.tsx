import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { Component, Suspense, type ReactNode } from 'react';
import { useLocation } from 'react-router';

import { Loading } from '../parts/Loading';

/** One sheet, fetched when it is opened; a fault in it takes nothing else away. */
export function Sheet({ children }: { children: ReactNode }) {
    const { pathname } = useLocation();
    return (
        <Boundary key={pathname.split('/').slice(0, 4).join('/')}>
            <Suspense fallback={<Loading what="Opening the sheet" />}>{children}</Suspense>
        </Boundary>
    );
}

class Boundary extends Component<{ children: ReactNode }, { fault: Error | null }> {
    override state = { fault: null as Error | null };

    static getDerivedStateFromError(fault: Error) {
        return { fault };
    }

    override render() {
        return this.state.fault ? <Fault fault={this.state.fault} /> : this.props.children;
    }
}

function Fault({ fault }: { fault: Error }) {
    return (
        <Box role="alert" sx={{ p: 3, maxWidth: 720 }}>
            <Typography variant="h1" sx={{ mb: 1 }}>
                This sheet cannot be shown
            </Typography>
            <Typography sx={{ mb: 1 }}>
                The program made a mistake here. What was saved is safe, and what was typed as a draft is kept; the
                other stations work. Reload the page to try again.
            </Typography>
            <Typography variant="body2" color="text.secondary" sx={{ mb: 2, fontFamily: 'monospace' }}>
                {fault.message}
            </Typography>
            <Button variant="contained" onClick={() => window.location.reload()}>
                Reload
            </Button>
        </Box>
    );
}
