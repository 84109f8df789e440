import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';

import { sessionQuery } from '../api/vocabulary';

const SAID = {
    guest: 'You look at this job as a guest: nothing can be changed.',
    apprentice: 'You record here as an apprentice. What changes tables, plans or gates is released by a member.',
};

/** What somebody who may not do everything may do here. */
export function RoleBar() {
    const { data: session } = useQuery(sessionQuery);
    const said = session?.username && !session.role ? SAID.guest : session?.role === 'apprentice' ? SAID.apprentice : null;
    if (!said) return null;
    return (
        <Box component="aside" aria-label="What you may do here" className="no-print" sx={{ px: 2, py: 0.75, borderBottom: 1, borderColor: 'divider', bgcolor: 'background.paper', fontSize: 14 }}>
            {said}
        </Box>
    );
}
