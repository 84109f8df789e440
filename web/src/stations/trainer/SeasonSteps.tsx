import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { Link } from 'react-router';

import type { Season } from '../../api/trainer';
import { useJob } from '../../parts/jobContext';
import { useShown } from '../../parts/useShown';

type Step = Season['steps'][number];

/** What was tried, the newest day first. */
export function SeasonSteps({ steps }: { steps: Step[] }) {
    const tried = steps.filter((step) => step.kind !== 'night').toReversed();
    if (tried.length === 0) return <Typography color="text.secondary">Nothing was tried yet.</Typography>;
    return (
        <Box component="section" aria-label="What was tried">
            <Typography variant="h2" sx={{ mt: 2 }}>
                What was tried
            </Typography>
            <Box component="ol" sx={{ listStyle: 'none', p: 0, m: 0 }}>
                {tried.map((step) => (
                    <Row key={step.number} step={step} />
                ))}
            </Box>
        </Box>
    );
}

function Row({ step }: { step: Step }) {
    const { job } = useJob();
    const shown = useShown();
    return (
        <Typography component="li" sx={{ py: 0.4 }}>
            Day {step.day}:{' '}
            {step.trial === null || step.coolant_c === null ? (
                `looked for ${step.cause}: ${step.found ? 'found, and mended' : 'nothing found'}`
            ) : (
                <>
                    <Link to={`/jobs/${job.id}/trials/${step.trial_id}`}>trial {step.trial}</Link>, {step.kind} start at {shown(step.coolant_c, '°C', 0)}:{' '}
                    {step.good ? 'good' : `${step.verdict}, not acceptable yet`}
                </>
            )}
        </Typography>
    );
}
