import Box from '@mui/material/Box';

import { inUnits } from '../units/said';

/** A refusal, in the server's own sentence. The box is drawn here: every page waits for what this imports. */
export function ProblemNote({ error }: { error: Error }) {
    return (
        <Box role="alert" sx={{ display: 'flex', gap: 1.5, border: 1, borderLeft: 5, borderColor: 'error.main', bgcolor: 'background.paper', px: 1.5, py: 1, my: 0.5 }}>
            <Box component="span" aria-hidden sx={{ color: 'error.main', fontWeight: 800 }}>
                !
            </Box>
            <span>{inUnits(error.message)}</span>
        </Box>
    );
}
