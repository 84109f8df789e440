import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';

import { sessionQuery } from '../api/vocabulary';

/** What somebody who may not do everything may do here. */
export function RoleBar() {
    const { data: session } = useQuery(sessionQuery);
    if (!session?.bounds) return null;
    return (
        <Box component="aside" aria-label="What you may do here" className="no-print" sx={{ px: 2, py: 0.75, borderBottom: 1, borderColor: 'divider', bgcolor: 'background.paper', fontSize: 14 }}>
            {session.bounds}
        </Box>
    );
}
