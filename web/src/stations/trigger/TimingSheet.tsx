import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { timingQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { formatNumber } from '../../units/units';
import { Caution } from '../../parts/Caution';
import { Choice } from '../../parts/Choice';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { PointGrid, type Row } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { useComputed } from '../../parts/useComputed';
import { moment } from '../../parts/when';
import { LightFit } from './LightFit';

const CAUTION =
    'Running engine: fans, belts and pulleys; leads and sleeves away. Exhaust gas: outdoors or extracted. Ignition voltage: do not touch leads. Car in neutral, wheels chocked. Local codes and licensed practice come first.';
const USUAL_LOCK = 10;
const BENCH_SPEEDS = [900, 2500, 4500];

/** Commanded against seen: the offset of the wheel, and a delay that grows with speed. */
export function TimingSheet({ trigger }: { trigger: Schemas['TriggerOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const sessions = useQuery(timingQuery(job.id));
    const [lock, setLock] = useState<number | null>(USUAL_LOCK);
    const [rows, setRows] = useState<Row[]>([]);
    const [raising, setRaising] = useState(trigger.trigger.raising_advances);
    const path = { params: { path: { job_id: job.id } } };
    const whole = rows.filter((row): row is number[] => row.every((cell) => cell !== null));
    const readings = whole.map(([rpm = 0, seen = 0]) => ({ rpm, commanded_deg: lock ?? 0, seen_deg: seen }));
    const body = readings.length > 0 && lock !== null ? { readings, raising_advances: raising } : null;
    const preview = useComputed(`timing-${job.id}-${trigger.number}`, body, (sent) => unwrap(client.POST('/api/jobs/{job_id}/timing/preview', { ...path, body: sent })));
    const save = useMutation({
        mutationFn: (sent: NonNullable<typeof body>) => unwrap(client.POST('/api/jobs/{job_id}/timing', { ...path, body: sent })),
        onSuccess: () => {
            setRows([]);
            return refresh(queryClient, job.id, 'trigger');
        },
    });
    const take = useMutation({
        mutationFn: (number: number) => unwrap(client.POST('/api/jobs/{job_id}/timing/{number}/take', { params: { path: { job_id: job.id, number } } })),
        onSuccess: () => refresh(queryClient, job.id, 'trigger'),
    });
    const bench = useMutation({
        mutationFn: async () => {
            const read: Row[] = [];
            for (const rpm of BENCH_SPEEDS) {
                const seed = rows.length + read.length + (sessions.data?.length ?? 0) * 50;
                const light = await unwrap(client.POST('/api/jobs/{job_id}/bench/light', { ...path, body: { rpm, commanded_deg: lock ?? USUAL_LOCK, seed } }));
                read.push([light.rpm, light.seen_deg]);
            }
            return read;
        },
        onSuccess: (read) => setRows((old) => [...old, ...read]),
    });
    const newest = sessions.data?.[0];
    const fit = body && !preview.error ? preview.data?.fit : undefined;
    return (
        <WithMargin margin={<EarlierReadings sessions={sessions.data ?? []} offset={trigger.trigger.offset_deg} />}>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Timing light
            </Typography>
            {newest && rows.length === 0 && <NewestReadings newest={newest} isBusy={take.isPending} error={take.error} onTake={take.mutate} />}
            <Caution>{CAUTION}</Caution>
            <Typography sx={{ mb: 1.5 }}>
                Lock the advance in the controller, then read the mark at idle and at two higher speeds.
            </Typography>
            <Group title="Advance lock" columns="repeat(auto-fit, minmax(220px, 1fr))">
                <QuantityField label="Locked at, before TDC" unit="°" value={lock} onChange={setLock} error={fieldProblem([preview.error, save.error], 'readings.0.commanded_deg')} />
                <Choice label="A larger offset" value={raising ? 'earlier' : 'later'} onChange={(value) => setRaising(value === 'earlier')} options={{ earlier: 'makes the spark earlier', later: 'makes it later' }} />
                <Button variant="outlined" disabled={bench.isPending || lock === null} onClick={() => bench.mutate()}>
                    Read the bench engine at 3 speeds
                </Button>
            </Group>
            {bench.error && <ProblemNote error={bench.error} />}
            <ReadingsAndFit
                rows={rows}
                fit={fit}
                readings={readings}
                onRows={setRows}
                problem={fieldProblem([preview.error, save.error], 'readings')}
                refused={body ? preview.error : null}
            />
            {save.error && <ProblemNote error={save.error} />}
            <Button variant="contained" sx={{ mt: 2 }} disabled={!fit || save.isPending} onClick={() => body && save.mutate(body)}>
                Write the readings down
            </Button>
        </WithMargin>
    );
}

interface ReadingsAndFitProps {
    rows: Row[];
    fit: Schemas['TimingFit'] | undefined;
    readings: ({ rpm: number; commanded_deg: number; seen_deg: number; })[];
    onRows: (rows: Row[]) => void;
    problem: string | undefined;
    refused: Error | null;
}

/** The readings as typed, and what they say so far. */
function ReadingsAndFit({ rows, fit, readings, onRows, problem, refused }: ReadingsAndFitProps) {
    return (
        <Box sx={{ display: 'grid', gap: 3, gridTemplateColumns: { xs: 'minmax(0, 1fr)', sm: '280px minmax(0, 1fr)' }, alignItems: 'start' }}>
            <PointGrid
                title="Readings"
                columns={[
                    { title: 'Speed', unit: 'rpm' },
                    { title: 'Seen', unit: '°' },
                ]}
                rows={rows}
                onChange={onRows}
                error={problem}
            />
            <Box>
                {refused && <ProblemNote error={refused} />}
                {fit && <Sentences sentences={fit.sentences} level={fit.level} />}
                {fit && <LightFit fit={fit} readings={readings} />}
            </Box>
        </Box>
    );
}

interface NewestReadingsProps {
    newest: Schemas['LightSessionOut'];
    isBusy: boolean;
    error: Error | null;
    onTake: (number: number) => void;
}

/** What the newest readings say, and the offset that would put it right. */
function NewestReadings({ newest, isBusy, error, onTake }: NewestReadingsProps) {
    return (
        <Box component="section" aria-label="Newest readings" sx={{ mb: 2 }}>
            <Sentences sentences={newest.fit.sentences} level={newest.fit.level} />
            <LightFit fit={newest.fit} readings={newest.readings} />
            {!newest.taken && newest.fit.level !== 'good' && (
                <Button variant="contained" disabled={isBusy} onClick={() => onTake(newest.number)}>
                    Set the offset to {formatNumber(newest.fit.new_offset_deg, 1)}°, then repeat
                </Button>
            )}
            {newest.taken && <Typography variant="body2">The offset was changed after these readings: repeat them.</Typography>}
            {error && <ProblemNote error={error} />}
        </Box>
    );
}

/** The offset in force, and what was read before. */
function EarlierReadings({ sessions, offset }: { sessions: Schemas['LightSessionOut'][]; offset: number }) {
    return (
        <>
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                Offset in force
            </Typography>
            <Typography sx={{ fontWeight: 650, mb: 2 }}>{formatNumber(offset, 1)}°</Typography>
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                Earlier readings
            </Typography>
            {sessions.map((session) => (
                <Box key={session.number} sx={{ borderBottom: 1, borderColor: 'divider', py: 0.75 }}>
                    <Typography variant="body2">
                        {session.readings.length} readings at {formatNumber(session.offset_deg, 1)}°: {formatNumber(session.fit.offset_deg, 1)}° off
                        {session.fit.delay_us !== null && `, ${formatNumber(session.fit.delay_us, 0)} µs`}.
                    </Typography>
                    <Typography variant="caption">
                        {moment(session.created_at)}, {session.created_by}
                        {session.fit.level === 'stop' && ', stop'}
                    </Typography>
                </Box>
            ))}
            {sessions.length === 0 && <Typography variant="body2">None yet.</Typography>}
        </>
    );
}
