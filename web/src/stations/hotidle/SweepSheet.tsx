import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { Caution } from '../../parts/Caution';
import { CurvePlot } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { LogChoice } from '../../parts/LogChoice';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import { SmallTable } from '../../parts/SmallTable';
import { formatNumber } from '../../units/units';
import { levelOf } from './levelOf';
import { LiveSweep } from './LiveSweep';
import { SimulatedRun } from './SimulatedRun';
import { RUNNING_CAUTION } from './StopSheet';

/** The valve sweep: its real limits, gain and hysteresis, and what goes into the tables. */
export function SweepSheet({ idle }: { idle: Schemas['IdleOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [logId, setLogId] = useState<number | null>(null);
    const path = { params: { path: { job_id: job.id } } };
    const read = useMutation({
        mutationFn: (log: number) => unwrap(client.POST('/api/jobs/{job_id}/idle/sweeps', { ...path, body: { log_id: log } })),
        onSuccess: () => refresh(queryClient, job.id, 'idle'),
    });
    const take = useMutation({
        mutationFn: ({ number, rescale }: { number: number; rescale: boolean }) =>
            unwrap(client.POST('/api/jobs/{job_id}/idle/sweeps/{number}/take', { params: { path: { job_id: job.id, number } }, body: { rescale } })),
        onSuccess: () => refresh(queryClient, job.id, 'idle', 'tables'),
    });
    const sweep = idle.sweep;
    const choose = (id: number) => (setLogId(id), read.mutate(id));
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Valve sweep
            </Typography>
            <Typography sx={{ mb: 1.5 }}>
                Warm, idle loop off, spark held: step the valve through its range and back, about 5 % and 5 s each, and log it. Where speed stops following are its real limits.
            </Typography>
            {sweep && <Sentences sentences={sweep.sentences} level={levelOf(idle, 'sweep')} />}
            {read.error && <ProblemNote error={read.error} />}
            {sweep && (
                <Box sx={{ display: 'grid', gap: 3, gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 250px' }, alignItems: 'start' }}>
                    <SweepPlot sweep={sweep} />
                    <SweepFigures sweep={sweep} />
                </Box>
            )}
            {sweep?.told && (
                <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', my: 2 }}>
                    <Button variant="contained" disabled={take.isPending} onClick={() => take.mutate({ number: sweep.number, rescale: false })}>
                        Take the limits into the idle tables
                    </Button>
                    <Button variant="outlined" disabled={take.isPending} onClick={() => take.mutate({ number: sweep.number, rescale: true })}>
                        Take them and stretch the openings
                    </Button>
                </Box>
            )}
            {take.data && <Typography sx={{ mb: 1 }}>{take.data.revision ? `Revision ${take.data.revision} holds them.` : 'The tables lie within them already.'}</Typography>}
            {take.error && <ProblemNote error={take.error} />}
            <LogChoice value={logId} onChange={choose} hint="A log of the sweep:" />
            <LiveSweep onLog={choose} />
            <SimulatedRun
                run="sweep"
                button="Sweep its valve"
                troubles={{
                    'a healthy valve': {},
                    'a valve that sticks': { valve: { sticks_pct: 6 } },
                    'an inverted output': { valve: { inverted: true } },
                    'nothing at the valve': { valve: { opens_pct: 80, full_pct: 100 } },
                }}
                onLog={choose}
            />
            <Caution>{RUNNING_CAUTION}</Caution>
        </>
    );
}

/** Speed over opening, up and down, with the limits. */
function SweepPlot({ sweep }: { sweep: Schemas['SweepOut'] }) {
    const ran = sweep.steps.filter((step) => !step.stalled);
    const way = (direction: number) => ran.filter((step) => step.direction === direction).map((step) => [step.duty_pct, step.rpm] as const).sort((a, b) => a[0] - b[0]);
    return (
        <CurvePlot
            title="Speed over the opening of the idle valve"
            xLabel="idle valve [%]"
            yLabel="speed [rpm]"
            series={[
                { name: 'opening', points: way(1) },
                { name: 'closing', points: way(-1), look: 'broken' },
            ]}
            dots={ran.map((step) => [step.duty_pct, step.rpm] as const)}
            xLimits={[
                ...(sweep.minimum_pct == null ? [] : [{ at: sweep.minimum_pct, label: `${formatNumber(sweep.minimum_pct, 0)} %` }]),
                ...(sweep.maximum_pct == null ? [] : [{ at: sweep.maximum_pct, label: `${formatNumber(sweep.maximum_pct, 0)} %` }]),
            ]}
        />
    );
}

/** What was told, each with its width. */
function SweepFigures({ sweep }: { sweep: Schemas['SweepOut'] }) {
    const row = (title: string, value: number | null | undefined, error: number | null | undefined, unit: string, decimals: number) => [
        title,
        value == null ? 'not told' : `${formatNumber(value, decimals)} ${error == null ? '' : `± ${formatNumber(error, decimals)} `}${unit}`,
    ];
    return (
        <Box>
            <SmallTable
                title="Told"
                heads={['', '']}
                wide
                rows={[
                    row('Opens at', sweep.minimum_pct, sweep.errors.minimum_pct, '%', 1),
                    row('Wide open at', sweep.maximum_pct, sweep.errors.maximum_pct, '%', 1),
                    row('Gain', sweep.gain_rpm_per_pct, sweep.errors.gain_rpm_per_pct, 'rpm/%', 1),
                    row('Hysteresis', sweep.hysteresis_pct, sweep.errors.hysteresis_pct, '%', 1),
                ]}
            />
            {sweep.loop && (
                <>
                    <Typography variant="h3" component="div">
                        Idle loop
                    </Typography>
                    <Typography variant="body2">{sweep.loop.sentence}</Typography>
                </>
            )}
        </Box>
    );
}
