import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { keepStretch } from '../../api/live';
import { refresh } from '../../api/refresh';
import { Caution } from '../../parts/Caution';
import { fieldProblem } from '../../parts/fieldProblem';
import { useJob } from '../../parts/jobContext';
import { RunInClock, type Live } from '../../parts/live';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { ReasonBox } from '../../parts/ReasonBox';
import { inUnits } from '../../units/said';
import { ReadLight, TakeReading } from './LiveReadings';
import { StepClock } from './StepClock';

interface Props {
    step: Schemas['StepOut'];
    live: Live | null;
    outcomes: Schemas['Outcome'][];
    number: number;
    count: number;
    onDone: () => void;
}

const LARGE = { minHeight: 64, fontSize: '1.15rem', justifyContent: 'flex-start', textAlign: 'left', px: 2 } as const;

/** One step, large enough for a gloved thumb. */
export function StepCard({ step, live, outcomes, number, count, onDone }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [values, setValues] = useState<Record<string, number | null>>({});
    const [coolant, setCoolant] = useState<number | null>(null);
    const [seconds, setSeconds] = useState(0);
    const path = { params: { path: { job_id: job.id, key: step.key } } };
    const onSuccess = async () => {
        await refresh(queryClient, job.id, 'first-start', 'trials', 'logs');
        onDone();
    };
    const done = useMutation({
        mutationFn: async (choice: string) => {
            // With a link the start is judged by what came over it.
            const kept = choice && live ? await keepStretch(job.id, live.session.id, {}) : null;
            return unwrap(
                client.POST('/api/jobs/{job_id}/first-start/steps/{key}', {
                    ...path,
                    body: {
                        values: step.readings.flatMap(({ key }) => (values[key] == null ? [] : [{ key, value: values[key] }])),
                        choice,
                        coolant_c: coolant,
                        seconds,
                        log_id: kept?.log_id ?? null,
                    },
                }),
            );
        },
        onSuccess,
    });
    const skip = useMutation({
        mutationFn: (reason: string) => unwrap(client.POST('/api/jobs/{job_id}/first-start/steps/{key}/skip', { ...path, body: { reason } })),
        onSuccess,
    });
    const isRead = step.readings.every(({ key }) => values[key] != null);
    return (
        <Box component="section" aria-label={step.title}>
            <Typography variant="body2">
                {step.part_title}, step {number} of {count}
            </Typography>
            <Typography variant="h1" sx={{ fontSize: { xs: '1.6rem', md: '1.9rem' }, my: 0.5 }}>
                {step.title}
            </Typography>
            <Typography sx={{ fontSize: '1.15rem', mb: 2 }}>{inUnits(step.text, job.units)}</Typography>
            {step.caution && <Caution>{step.caution}</Caution>}
            {step.clock && <StepClock clock={step.clock} onTick={setSeconds} />}
            {step.key === 'run_in' && live && <RunInClock live={live} />}
            {step.key === 'timing' && live && <ReadLight live={live} onRead={(value) => setValues((old) => ({ ...old, timing_off_deg: value }))} />}
            <Box sx={{ display: 'grid', gap: 1.5, mb: 2, gridTemplateColumns: { xs: '1fr', sm: 'repeat(2, minmax(0, 1fr))' } }}>
                {step.readings.map((reading) => (
                    <Box key={reading.key}>
                        <QuantityField
                            label={reading.title}
                            unit={reading.unit === '–' ? '' : reading.unit}
                            value={values[reading.key]}
                            onChange={(value) => setValues((old) => ({ ...old, [reading.key]: value }))}
                            error={fieldProblem([done.error], reading.key) ?? fieldProblem([done.error], `values.${reading.key}`)}
                        />
                        <TakeReading reading={reading} live={live} onTake={(value) => setValues((old) => ({ ...old, [reading.key]: value }))} />
                    </Box>
                ))}
                {step.choice && !live && <QuantityField label="Coolant before it" unit="°C" value={coolant} onChange={setCoolant} help="the start is recorded as a trial at it" error={fieldProblem([done.error], 'coolant_c')} />}
            </Box>
            {step.done?.told.map((sentence) => (
                <Typography key={sentence} sx={{ mb: 1, fontWeight: 650 }}>
                    {inUnits(sentence, job.units)}
                </Typography>
            ))}
            {done.error && <ProblemNote error={done.error} />}
            {step.choice && live && <Typography sx={{ mb: 1 }}>What came over the link since it last stood is kept as a log, and judged.</Typography>}
            {step.choice ? (
                <Box sx={{ display: 'grid', gap: 1 }}>
                    {outcomes.map((outcome) => (
                        <Button key={outcome.key} variant={outcome.key === 'runs' ? 'contained' : 'outlined'} fullWidth sx={LARGE} disabled={done.isPending} onClick={() => done.mutate(outcome.key)}>
                            {outcome.title}
                        </Button>
                    ))}
                </Box>
            ) : (
                <Button variant="contained" fullWidth sx={{ ...LARGE, justifyContent: 'center' }} disabled={!isRead || done.isPending} onClick={() => done.mutate('')}>
                    {step.readings.length ? 'Read and done' : 'Done'}
                </Button>
            )}
            <Box sx={{ mt: 1.5 }}>
                <ReasonBox title="Skip this step" label="Why it is skipped" button="Skip it" pending={skip.isPending} error={skip.error} onWrite={skip.mutate} />
            </Box>
        </Box>
    );
}
