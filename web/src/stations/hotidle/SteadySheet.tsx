import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { Caution } from '../../parts/Caution';
import { useJob } from '../../parts/jobContext';
import { LivePanel, LiveStretch } from '../../parts/live';
import { LogChoice } from '../../parts/LogChoice';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import { SmallTable } from '../../parts/SmallTable';
import { formatNumber } from '../../units/units';
import { levelOf } from './levelOf';
import { SimulatedRun } from './SimulatedRun';
import { RUNNING_CAUTION } from './StopSheet';

const CHANNELS: Record<string, string> = { idle_valve_pct: 'Idle valve', spark_deg: 'Spark', lambda_correction_pct: 'Mixture loop' };

const DRAWN = ['rpm', 'idle_valve_pct', 'lambda'] as const;

/** Does it hunt, and what makes it? */
export function SteadySheet({ idle }: { idle: Schemas['IdleOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [logId, setLogId] = useState<number | null>(null);
    const judge = useMutation({
        mutationFn: (log: number) => unwrap(client.POST('/api/jobs/{job_id}/idle/hunting', { params: { path: { job_id: job.id } }, body: { log_id: log } })),
        onSuccess: () => refresh(queryClient, job.id, 'idle'),
    });
    const choose = (id: number) => (setLogId(id), judge.mutate(id));
    const found = idle.hunting;
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Steady idle
            </Typography>
            <Typography sx={{ mb: 1.5 }}>Warm, throttle shut, loops on: let it idle for half a minute with speed, valve, spark, lambda and battery logged.</Typography>
            {found && <Sentences sentences={found.sentences} level={levelOf(idle, 'hunting')} />}
            {judge.error && <ProblemNote error={judge.error} />}
            {found && found.loops.length > 0 && (
                <Box sx={{ maxWidth: 640 }}>
                <SmallTable
                    title="How much of the swing each would make"
                    heads={['Channel', 'Of the swing', 'Leads speed by']}
                    wide
                    rows={found.loops.map(({ channel, share, leads_deg }) => [CHANNELS[channel] ?? channel, `${formatNumber(100 * share, 0)} %`, `${formatNumber(leads_deg, 0)}°`])}
                    foot={found.period_s ? `Period ${formatNumber(found.period_s, 1)} s, ±${formatNumber(found.amplitude_rpm, 0)} rpm.` : `±${formatNumber(found.amplitude_rpm, 0)} rpm.`}
                />
                </Box>
            )}
            <LogChoice value={logId} onChange={choose} hint="A log of the idle:" />
            <SimulatedRun
                run="idle"
                button="Let it idle 45 s"
                troubles={{
                    'a healthy idle': {},
                    'an idle loop that is too quick': { loops: { valve_integral: 0.38, valve_direct: 0, spark_gain: 0.03, spark_delay_s: 0, mixture_gain: 20 } },
                    'spark that corrects too much': { loops: { valve_integral: 0.004, valve_direct: 0.004, spark_gain: 0.2, spark_delay_s: 0.3, mixture_gain: 20 } },
                    'a cylinder that misses': { trouble: { missing: 0.7 } },
                    'a fan that comes and goes': { trouble: { load_kpa: 20, load_every_s: 10 } },
                }}
                onLog={choose}
            />
            <LiveStretch begin="Let it idle from now on" end="Judge this idle" onLog={choose} />
            <LivePanel coolant={85} channels={DRAWN} isShort />
            <Caution>{RUNNING_CAUTION}</Caution>
        </>
    );
}
