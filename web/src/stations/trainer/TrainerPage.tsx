import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';

import { beginSeason, scenariosQuery, seasonsQuery, type Scenario, type SeasonIn } from '../../api/trainer';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { OwnScenario } from './OwnScenario';

/** The trainer: seasons on simulated engines with hidden needs and faults. */
export function TrainerPage() {
    const navigate = useNavigate();
    const scenarios = useQuery(scenariosQuery);
    const begin = useMutation({
        mutationFn: (season: SeasonIn) => beginSeason(season),
        onSuccess: ({ job_id }) => navigate(`/jobs/${job_id}/season`),
    });
    if (scenarios.isPending) return <Loading what="Fetching the scenarios" />;
    if (scenarios.isError) return <ProblemNote error={scenarios.error} />;
    return (
        <Box sx={{ p: { xs: 2, md: 4 }, width: '100%', maxWidth: 1100, mx: 'auto' }}>
            <Typography variant="h1">Trainer</Typography>
            <Typography sx={{ mb: 2, maxWidth: '70ch' }}>
                Virtual mornings on a simulated engine: one true cold start a day, restarts after it, your own changes or the advice. What is
                hidden is told at the end, with how other hands do on the same mornings.
            </Typography>
            {begin.isError && <ProblemNote error={begin.error} />}
            <Box component="ul" sx={{ listStyle: 'none', p: 0, m: 0, display: 'grid', gap: 2, gridTemplateColumns: { xs: '1fr', md: '1fr 1fr' } }}>
                {scenarios.data.map((scenario) => (
                    <Card key={scenario.key} scenario={scenario} isBusy={begin.isPending} onPlay={() => begin.mutate({ key: scenario.key })} />
                ))}
            </Box>
            <Played />
            <OwnScenario example={scenarios.data[0]?.file} isBusy={begin.isPending} onPlay={(scenario) => begin.mutate({ scenario })} />
        </Box>
    );
}

function Card({ scenario, isBusy, onPlay }: { scenario: Scenario; isBusy: boolean; onPlay: () => void }) {
    return (
        <Box component="li" sx={{ p: 2, bgcolor: 'background.paper', border: 1, borderColor: 'divider', display: 'flex', flexDirection: 'column' }}>
            <Typography variant="h3" component="h2">
                {scenario.title}
            </Typography>
            <Typography sx={{ flex: 1, my: 1 }}>{scenario.story}</Typography>
            <Button variant="outlined" disabled={isBusy} onClick={onPlay} sx={{ alignSelf: 'start' }}>
                Play {scenario.days} days
            </Button>
        </Box>
    );
}

function Played() {
    const seasons = useQuery(seasonsQuery).data ?? [];
    if (seasons.length === 0) return null;
    return (
        <Box sx={{ mt: 3 }}>
            <Typography variant="h2">Seasons begun</Typography>
            {seasons.map((season) => (
                <Typography key={season.job_id} sx={{ py: 0.5 }}>
                    <Link to={`/jobs/${season.job_id}/season`}>{season.title}</Link>, {season.is_over ? 'over' : `day ${season.day} of ${season.days}`}
                </Typography>
            ))}
        </Box>
    );
}
