import Box from '@mui/material/Box';
import { Outlet } from 'react-router';

import { TopBar } from './TopBar';

/** Sheets outside a job. */
export function Shell() {
    return (
        <Box sx={{ minHeight: '100%', display: 'flex', flexDirection: 'column' }}>
            <TopBar />
            <Box component="main" sx={{ flex: 1, display: 'flex', flexDirection: 'column' }}>
                <Outlet />
            </Box>
        </Box>
    );
}
