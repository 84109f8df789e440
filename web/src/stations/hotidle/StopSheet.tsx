import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { Caution } from '../../parts/Caution';
import { fieldProblem } from '../../parts/fieldProblem';
import { useJob } from '../../parts/jobContext';
import { useLive } from '../../parts/live';
import { PointGrid, type Row } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import { useComputed } from '../../parts/useComputed';
import { ValvePicture } from './ValvePicture';

export const RUNNING_CAUTION =
    'Running engine: keep hands, sleeves and leads away from fans, belts and hot parts. Exhaust gas: outdoors or extracted. Neutral, wheels chocked, somebody at the key. Local codes and licensed practice come first.';

function rowsOf(readings: Schemas['StopReading'][]): Row[] {
    return readings.map((r) => [r.turned ?? 0, r.valve_pct, r.rpm, r.target_rpm ?? null]);
}

/** The throttle stop: read the warm valve, turn, read again until it sits well. */
export function StopSheet({ idle }: { idle: Schemas['IdleOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [rows, setRows] = useState<Row[]>(() => rowsOf(idle.readings));
    const path = { params: { path: { job_id: job.id } } };
    const readings = rows
        .filter((row) => row[1] !== null && row[2] !== null && row[1] !== undefined && row[2] !== undefined)
        .map(([turned, valve, rpm, target]) => ({ turned: turned ?? 0, valve_pct: valve ?? 0, rpm: rpm ?? 0, target_rpm: target ?? null }));
    const preview = useComputed(`idle-stop-${job.id}`, readings.length ? { readings, keep: false } : null, (body) =>
        unwrap(client.POST('/api/jobs/{job_id}/idle/stop', { ...path, body })),
    );
    const save = useMutation({
        mutationFn: () => unwrap(client.POST('/api/jobs/{job_id}/idle/stop', { ...path, body: { readings, keep: true } })),
        onSuccess: () => refresh(queryClient, job.id, 'idle'),
    });
    const advice = readings.length ? (preview.error ? undefined : preview.data?.advice) : undefined;
    const isSaved = JSON.stringify(rowsOf(idle.readings)) === JSON.stringify(rowsOf(readings));
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Throttle stop
            </Typography>
            <Typography sx={{ mb: 1.5 }}>
                Engine warm, idle loop holding the speed: read where the valve stands. A valve at one end is a mechanical job, no table mends it.
            </Typography>
            {advice && <Sentences sentences={advice.sentences} level={advice.is_true ? 'good' : 'attention'} />}
            {preview.error && readings.length > 0 && <ProblemNote error={preview.error} />}
            <Box sx={{ display: 'grid', gap: 3, gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 430px) minmax(0, 1fr)' }, alignItems: 'start' }}>
                <Box>
                    <PointGrid
                        title="Readings, oldest first"
                        columns={[
                            { title: 'Stop opened, turns', unit: '' },
                            { title: 'Valve', unit: '%' },
                            { title: 'Speed', unit: 'rpm' },
                            { title: 'Target', unit: 'rpm' },
                        ]}
                        rows={rows}
                        onChange={setRows}
                        error={fieldProblem([save.error], 'readings')}
                    />
                    <Typography variant="body2" sx={{ mt: 1 }}>
                        Turns count from the reading before; closing the stop counts below zero.
                    </Typography>
                    <LiveReading onTake={(row) => setRows([...rows.filter((old) => old.some((cell) => cell !== null)), row])} />
                    <Button variant="contained" sx={{ mt: 2 }} disabled={!readings.length || save.isPending || isSaved} onClick={() => save.mutate()}>
                        {isSaved && readings.length ? 'Written down' : 'Write the readings down'}
                    </Button>
                    {save.error && <ProblemNote error={save.error} />}
                </Box>
                <ValvePicture advice={advice} valve={readings.at(-1)?.valve_pct} sweep={idle.sweep} />
            </Box>
            <Box sx={{ mt: 2 }}>
                <Caution>{RUNNING_CAUTION}</Caution>
            </Box>
        </>
    );
}

/** The last reading over the live link, to be taken instead of typed: no turn since the reading before. */
function LiveReading({ onTake }: { onTake: (row: Row) => void }) {
    const link = useLive()?.link;
    if (!link) return null;
    const take = () => onTake([0, round(link.last('idle_valve_pct')), round(link.last('rpm')), round(link.last('idle_target_rpm'))]);
    return (
        <Button variant="outlined" sx={{ mt: 2, mr: 1 }} onClick={take}>
            Take it from the link
        </Button>
    );
}

const round = (value: number | null) => (value === null ? null : Math.round(10 * value) / 10);
