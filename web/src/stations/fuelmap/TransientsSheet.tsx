import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { logsQuery } from '../../api/logbook';
import { logLabel } from './logLabel';
import { refresh } from '../../api/refresh';
import { Caution } from '../../parts/Caution';
import { CurvePlot } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { LogChoice } from '../../parts/LogChoice';
import { ProblemNote } from '../../parts/ProblemNote';
import { SmallTable } from '../../parts/SmallTable';
import { formatNumber } from '../../units/units';
import { readTransients, takeEnrichment, transientsQuery } from './api';
import { DriveForm } from './DriveForm';
import { TaskProgress } from '../../parts/TaskProgress';
import { useTask } from '../../parts/useTask';

const VERDICTS: Record<string, string> = { answered: 'answered', lean: 'lean', rich: 'rich', not_yet: 'not yet: the map first', cold: 'cold' };

/** Throttle steps, fuel on the walls, acceleration enrichment, and the overrun cut. */
export function TransientsSheet() {
    const { job } = useJob();
    const newest = useQuery(transientsQuery(job.id));
    if (!newest.data) return newest.error ? <ProblemNote error={newest.error} /> : <Loading what="Opening the transients" />;
    const { number, read } = newest.data;
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Transients
            </Typography>
            {number !== null && read ? <Told number={number} found={read.found} /> : <Typography sx={{ mb: 2 }}>Hold a speed, open the pedal quickly, hold it again for four seconds: small steps and large, at several speeds. The steps tell how much fuel the walls keep.</Typography>}
            <ReadForm />
            <DriveForm pedalSteps />
            <Caution>Steps of the pedal on a brake, on rollers, or where it is lawful; read the log afterwards. Local codes come first.</Caution>
        </>
    );
}

/** Which logs are read. */
function ReadForm() {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const logs = useQuery(logsQuery(job.id)).data ?? [];
    const [chosen, setChosen] = useState<readonly number[]>([]);
    const read = useTask<readonly number[], { number: number }>(
        (ids) => readTransients(job.id, ids),
        () => refresh(queryClient, job.id, 'fuel-map'),
    );
    const turn = (id: number) => setChosen((old) => (old.includes(id) ? old.filter((other) => other !== id) : [...old, id]));
    return (
        <Box component="section" aria-label="Logs of pedal steps" sx={{ mb: 2 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Which logs
            </Typography>
            {logs
                .filter(({ id, holds, set_aside }) => set_aside === null && (!holds || holds.warm_s || chosen.includes(id)))
                .map((log) => (
                    <FormControlLabel key={log.id} sx={{ display: 'flex' }} control={<Checkbox checked={chosen.includes(log.id)} onChange={() => turn(log.id)} />} label={logLabel(log)} />
                ))}
            <LogChoice value={null} onChange={turn} hint="Another log, or a file:" />
            <Box sx={{ display: 'flex', gap: 2, alignItems: 'center' }}>
                <Button variant="contained" sx={{ minHeight: 48 }} disabled={!chosen.length || read.isPending} onClick={() => read.begin(chosen)}>
                    Read the steps
                </Button>
                <TaskProgress task={read} label="Reading the steps" />
            </Box>
            {read.error && <ProblemNote error={read.error} />}
        </Box>
    );
}

/** What the newest reading tells. */
function Told({ number, found }: { number: number; found: Schemas['Transients'] }) {
    return (
        <Box sx={{ mb: 3 }}>
            <Typography sx={{ fontSize: '1.1rem', fontWeight: 650, mb: 1 }}>{found.sentence}</Typography>
            {found.steps.length > 0 && (
                <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'repeat(2, minmax(0, 1fr))' }, mb: 2 }}>
                    <CurvePlot title="Spike of each step" xLabel="speed of the pedal [%/s]" yLabel="lean above 0 [%]" series={[]} dots={found.steps.filter(({ verdict }) => verdict !== 'not_yet').map((step) => [step.rate_pct_s, step.spike_pct] as const)} yLimits={[{ at: 0, label: '' }]} yEnds={[-5, 5]} height={240} />
                    {found.enrichment && <CurvePlot title="Acceleration enrichment" xLabel="speed of the pedal [%/s]" yLabel="fuel added [%]" series={[{ name: '', points: found.enrichment.rates_pct_s.map((rate, i) => [rate, found.enrichment?.percent[i] ?? null]) }]} yEnds={[0]} height={240} />}
                </Box>
            )}
            {found.enrichment && <Take number={number} enrichment={found.enrichment} />}
            {found.overrun.sentences.map((sentence) => (
                <Typography key={sentence} sx={{ mb: 0.5 }}>
                    {sentence}
                </Typography>
            ))}
            {found.steps.length > 0 && (
                <Box sx={{ maxHeight: 320, overflowY: 'auto', mt: 2 }} tabIndex={0} role="region" aria-label="Steps of the pedal">
                    <SmallTable
                        title="Steps of the pedal"
                        heads={['At', 'Speed', 'Pedal', 'Quick', 'Coolant', 'Spike', 'Lasts', 'Verdict']}
                        wide
                        rows={found.steps.map((step) => [
                            `${formatNumber(step.time_s, 1)} s`,
                            `${formatNumber(step.rpm, 0)} rpm`,
                            `${formatNumber(step.from_pct, 0)} to ${formatNumber(step.to_pct, 0)} %`,
                            `${formatNumber(step.rate_pct_s, 0)} %/s`,
                            `${formatNumber(step.coolant_c, 0)} °C`,
                            `${formatNumber(step.spike_pct, 1)} %`,
                            `${formatNumber(step.lasts_s, 1)} s`,
                            VERDICTS[step.verdict] ?? step.verdict,
                        ])}
                    />
                </Box>
            )}
        </Box>
    );
}

/** The enrichment into the tables. */
function Take({ number, enrichment }: { number: number; enrichment: Schemas['Enrichment'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const take = useMutation({ mutationFn: () => takeEnrichment(job.id, number), onSuccess: () => refresh(queryClient, job.id, 'tables') });
    return (
        <Box sx={{ mb: 2 }}>
            <Typography sx={{ mb: 1 }}>{enrichment.sentence}</Typography>
            <Button variant="contained" sx={{ minHeight: 44 }} disabled={take.isPending} onClick={() => take.mutate()}>
                Take it into the tables
            </Button>
            {take.data && <Typography sx={{ mt: 1 }}>Revision {take.data.revision} holds it. Drive the steps again: they test it.</Typography>}
            {take.error && <ProblemNote error={take.error} />}
        </Box>
    );
}
