import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';

import { morningsQuery } from '../../../api/mornings';
import { useJob } from '../../../parts/jobContext';
import { Loading } from '../../../parts/Loading';
import { ProblemNote } from '../../../parts/ProblemNote';
import { inUnits } from '../../../units/said';
import { Cooling } from './Cooling';
import { Experiments } from './Experiments';
import { MorningsForm } from './MorningsForm';
import { SeasonTable } from './SeasonTable';

/** The mornings: when the engine is ready, which to use for what, and what to try until then. */
export function MorningsPanel() {
    const { job } = useJob();
    const mornings = useQuery(morningsQuery(job.id));
    if (mornings.isPending) return <Loading what="Planning the mornings" />;
    if (mornings.isError) return <ProblemNote error={mornings.error} />;
    const found = mornings.data;
    return (
        <Box component="section" aria-label="Mornings" sx={{ mt: 1.5 }}>
            {[found.tomorrow, found.until_then, found.season].filter(Boolean).map((sentence) => (
                <Typography key={sentence} sx={{ mb: 0.5 }}>
                    {inUnits(sentence, job.units)}
                </Typography>
            ))}
            <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', lg: 'repeat(2, minmax(0, 1fr))' }, gap: 3, mt: 2 }}>
                <SeasonTable mornings={found} />
                <Box>
                    <Experiments experiments={found.experiments} />
                    <Cooling mornings={found} />
                </Box>
            </Box>
            <MorningsForm key={found.number} mornings={found} />
        </Box>
    );
}
