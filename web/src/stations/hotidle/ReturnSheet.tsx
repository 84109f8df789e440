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
import { LivePanel, LiveStretch } from '../../parts/live';
import { LogChoice } from '../../parts/LogChoice';
import { PointGrid, type Row } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import { levelOf } from './levelOf';
import { SimulatedRun } from './SimulatedRun';
import { RUNNING_CAUTION } from './StopSheet';

const CHANNELS = ['throttle_pct', 'rpm'] as const;

/** The return of the throttle: opened and let go, does it come to the same place? */
export function ReturnSheet({ idle }: { idle: Schemas['IdleOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [rows, setRows] = useState<Row[]>([]);
    const [logId, setLogId] = useState<number | null>(null);
    const typed = rows.filter((row) => row[0] !== null || row[1] !== null).map(([throttle, rpm]) => ({ throttle_pct: throttle ?? null, rpm: rpm ?? null }));
    const judge = useMutation({
        mutationFn: (log: number | null) =>
            unwrap(client.POST('/api/jobs/{job_id}/idle/return', { params: { path: { job_id: job.id } }, body: log === null ? { closings: typed } : { closings: [], log_id: log } })),
        onSuccess: () => refresh(queryClient, job.id, 'idle'),
    });
    const choose = (id: number) => (setLogId(id), judge.mutate(id));
    const found = idle.closing;
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Return of the throttle
            </Typography>
            <Typography sx={{ mb: 1.5 }}>Open and let go at least four times, five seconds apart. Bring the log, or type where throttle and speed came to.</Typography>
            {found && <Sentences sentences={found.sentences} level={levelOf(idle, 'return')} />}
            {judge.error && <ProblemNote error={judge.error} />}
            <LogChoice value={logId} onChange={choose} hint="A log of the closings:" />
            <SimulatedRun
                run="returns"
                button="Blip it six times"
                troubles={{ 'a throttle that comes back': {}, 'a cable that drags': { spread_pct: 1.6 } }}
                onLog={choose}
            />
            <Box sx={{ maxWidth: 440 }}>
            <PointGrid
                title="Typed"
                columns={[
                    { title: 'Throttle', unit: '%' },
                    { title: 'Speed', unit: 'rpm' },
                ]}
                rows={rows}
                onChange={setRows}
            />
            </Box>
            <Button variant="contained" sx={{ my: 2 }} disabled={!typed.length || judge.isPending} onClick={() => judge.mutate(null)}>
                Judge what is typed
            </Button>
            {found && found.closings.length > 1 && (
                <Box sx={{ maxWidth: 640 }}>
                <CurvePlot
                    title="Throttle after each closing"
                    xLabel="closing"
                    yLabel="throttle [%]"
                    series={[{ name: '', points: found.closings.map((c, i) => [i + 1, c.throttle_pct ?? null]) }]}
                    dots={found.closings.flatMap((c, i) => (c.throttle_pct == null ? [] : [[i + 1, c.throttle_pct] as const]))}
                    yEnds={[0, 1]}
                    height={220}
                />
                </Box>
            )}
            <LiveStretch begin="Begin: open and let go from now on" end="Judge these closings" onLog={choose} />
            <LivePanel coolant={85} channels={CHANNELS} isShort />
            <Caution>{RUNNING_CAUTION}</Caution>
        </>
    );
}
