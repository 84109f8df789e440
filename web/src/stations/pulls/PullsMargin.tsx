import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { inUnits } from '../../units/said';
import { useShown } from '../../parts/useShown';

/** What the strongest pull says of the supply, and the limits in force. */
export function PullsMargin({ pulls }: { pulls: Schemas['PullsOut'] }) {
    const { job } = useJob();
    const { supply, limits, titles } = pulls;
    const shown = useShown();
    return (
        <>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Fuel supply
            </Typography>
            <Typography variant="body2" sx={{ mb: 1, fontWeight: supply.stop ? 700 : 400 }}>
                {inUnits(supply.sentence, job.units)}
            </Typography>
            <Typography variant="h3" component="h3" sx={{ mt: 2, mb: 0.5 }}>
                Limits
            </Typography>
            {limits ? (
                Object.entries(titles).map(([key, [title = '', unit = '']]) => (
                    <Box key={key} sx={{ display: 'flex', justifyContent: 'space-between', borderTop: 1, borderColor: 'divider', py: 0.4 }}>
                        <Typography variant="body2">{title}</Typography>
                        <Typography variant="body2" sx={{ fontWeight: 650, whiteSpace: 'nowrap' }}>
                            {shown(limits[key as keyof typeof limits], unit, key === 'leanest' ? 2 : 0)}
                        </Typography>
                    </Box>
                ))
            ) : (
                <Typography variant="body2">Not entered yet: nothing is pulled before.</Typography>
            )}
        </>
    );
}
