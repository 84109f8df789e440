import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';

import { seasonQuery, type Season } from '../../api/trainer';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { useShown } from '../../parts/useShown';
import { SeasonActions } from './SeasonActions';
import { SeasonEnd } from './SeasonEnd';
import { SeasonSteps } from './SeasonSteps';

/** A training season: today's morning, what can be done, and what was tried. */
export function SeasonPage() {
    const { job } = useJob();
    const season = useQuery(seasonQuery(job.id));
    if (season.isPending) return <Loading what="Opening the season" />;
    if (season.isError) return <ProblemNote error={season.error} />;
    return (
        <Box sx={{ p: 2, maxWidth: 1100, width: '100%' }}>
            <Head season={season.data} />
            {!season.data.is_over && <SeasonActions season={season.data} />}
            <SeasonEnd season={season.data} />
            <SeasonSteps steps={season.data.steps} />
        </Box>
    );
}

function Head({ season }: { season: Season }) {
    const shown = useShown();
    return (
        <>
            <Typography variant="body2" sx={{ fontWeight: 650 }}>
                Simulation: a training season, no real engine
            </Typography>
            <Typography variant="h1" sx={{ mb: 0.5 }}>
                {season.title}
            </Typography>
            <Typography sx={{ mb: 1.5, maxWidth: '70ch' }}>{season.story}</Typography>
            <Typography variant="h2" sx={{ mb: 1 }}>
                {season.morning_c === null ? 'The season is over' : `Day ${season.day} of ${season.days}: ${shown(season.morning_c, '°C', 0)} this morning`}
            </Typography>
        </>
    );
}
