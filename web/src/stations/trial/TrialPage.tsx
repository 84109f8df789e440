import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Link, useParams } from 'react-router';

import type { Trial } from '../../api/client';
import { samplesQuery, trialQuery } from '../../api/logbook';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { inUnits } from '../../units/said';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { Trace } from '../../parts/Trace';
import { AdviceCard } from './AdviceCard';
import { Causes } from './Causes';
import { Figures } from './Figures';
import { Findings } from './Findings';
import { stripsOf } from './strips';

/** One start: what happened, the one number to change, and the recording. */
export function TrialPage() {
    const { job } = useJob();
    const trialId = Number(useParams().trialId);
    const trial = useQuery(trialQuery(job.id, trialId));
    if (trial.isPending) return <Loading what="Opening the trial" />;
    if (trial.isError) {
        return (
            <Box sx={{ p: 3 }}>
                <ProblemNote error={trial.error} />
            </Box>
        );
    }
    return (
        <WithMargin margin={<Figures trial={trial.data} />}>
            <Stack spacing={1.5}>
                <Verdict trial={trial.data} />
                <AdviceCard key={trial.data.id} trial={trial.data} />
                <Causes trial={trial.data} />
                {trial.data.log_id !== null && <TrialTrace trial={trial.data} logId={trial.data.log_id} />}
                <Findings trial={trial.data} />
            </Stack>
        </WithMargin>
    );
}

function Verdict({ trial }: { trial: Trial }) {
    const { job } = useJob();
    const from = trial.evidence === 'log' ? 'from a log' : 'from your observation';
    return (
        <div>
            <Typography variant="body2" color="text.secondary">
                Trial {trial.number}, {from}, with revision{' '}
                <Link to={`/jobs/${job.id}/ladder`}>{trial.revision}</Link>
                {trial.soak_h !== null && `, after ${trial.soak_h} h of soak`}
            </Typography>
            <Typography variant="h1" sx={{ fontSize: '1.35rem', color: trial.good ? 'primary.main' : 'text.primary' }}>
                {trial.good ? 'A good start. ' : ''}
                {inUnits(trial.sentence)}
            </Typography>
            {trial.acceptance_sentence && <Typography>{trial.acceptance_sentence}</Typography>}
            {trial.note && <Typography variant="body2">{trial.note}</Typography>}
        </div>
    );
}

function TrialTrace({ trial, logId }: { trial: Trial; logId: number }) {
    const { job } = useJob();
    // A start is a minute at most: one generous window around its phases.
    const first = Math.max(0, (trial.phases[0]?.start_s ?? 0) - 0.5);
    const last = Math.max(first + 5, ...trial.phases.map((phase) => phase.end_s)) + 0.5;
    const samples = useQuery(samplesQuery(job.id, logId, first, last));
    const lambdaFrom = trial.figures.lambda_usable_from_s ?? null;
    const strips = useMemo(
        () => (samples.data ? stripsOf(samples.data, job.units, lambdaFrom) : []),
        [samples.data, job.units, lambdaFrom],
    );
    if (samples.isPending) return <Loading what="Drawing the trace" />;
    if (samples.isError) return <ProblemNote error={samples.error} />;
    return (
        <Box sx={{ bgcolor: 'background.paper', border: 1, borderColor: 'divider', p: 1 }}>
            <Trace
                time={samples.data.time_s}
                strips={strips}
                phases={trial.phases}
                label={`Trace of the start: ${inUnits(trial.sentence)}`}
            />
        </Box>
    );
}
