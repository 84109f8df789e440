import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import MenuItem from '@mui/material/MenuItem';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import { followed, type Task } from '../../api/tasks';
import { ApiProblem, client, unwrap, type Capture, type Schemas, type TriggerEntry } from '../../api/client';
import { multipart } from '../../api/multipart';
import { benchQuery } from '../../api/bench';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { Choice } from '../../parts/Choice';
import { Group } from '../../parts/Group';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';

const UNITS = { auto: 'as the file says', s: 's', ms: 'ms', us: 'µs', ns: 'ns', ticks: 'ticks of a counter' };

interface Props {
    onDone: () => void;
    last: Capture | undefined;
    trigger: TriggerEntry;
}

/** A file of edges, read with progress, or the bench engine cranked. */
export function CaptureForm({ onDone, last, trigger }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [source, setSource] = useState<'file' | 'bench'>('file');
    const done = () => {
        window.scrollTo({ top: 0 });
        onDone();
        return refresh(queryClient, job.id, 'trigger');
    };
    return (
        <Box component="section" aria-label="New capture">
            <Typography variant="h2" sx={{ mb: 1 }}>
                {last ? 'Capture again' : 'Capture now'}
            </Typography>
            <ToggleButtonGroup exclusive size="small" value={source} aria-label="Where the edges come from" onChange={(_, value: 'file' | 'bench' | null) => value && setSource(value)} sx={{ mb: 1.5 }}>
                <ToggleButton value="file">From a file</ToggleButton>
                <ToggleButton value="bench">Bench engine</ToggleButton>
            </ToggleButtonGroup>
            {source === 'file' ? <FileForm jobId={job.id} onDone={done} trigger={trigger} /> : <BenchForm jobId={job.id} onDone={done} last={last} />}
        </Box>
    );
}

interface FileProps {
    jobId: number;
    onDone: () => Promise<void>;
    trigger: TriggerEntry;
}

function FileForm({ jobId, onDone, trigger }: FileProps) {
    const [choice, setChoice] = useState<Schemas['CaptureChoice']>({ crank: '', cam: '', unit: 'auto', edge: trigger.edge, cam_edge: trigger.cam_edge, from_s: 0, tick_us: 1 });
    const [progress, setProgress] = useState<Pick<Task, 'share' | 'sentence'> | null>(null);
    const [kept, setKept] = useState<{ id: string; name: string } | null>(null);
    const [wasCancelled, setCancelled] = useState(false);
    const stop = useRef<AbortController | null>(null);
    const read = useMutation({
        mutationFn: async (file: File | null) => {
            stop.current = new AbortController();
            setCancelled(false);
            let upload = kept;
            if (file) {
                setProgress({ sentence: 'Bringing the file.', share: 0 });
                const answer = await unwrap(client.POST('/api/jobs/{job_id}/captures/upload', { params: { path: { job_id: jobId } }, ...multipart({ file }), signal: stop.current.signal }));
                upload = { id: answer.upload_id, name: file.name };
                setKept(upload);
            }
            if (!upload) return;
            const body = { upload_id: upload.id, name: upload.name, choice };
            const task = await unwrap(client.POST('/api/jobs/{job_id}/captures/read', { params: { path: { job_id: jobId } }, body }));
            await followed(task, setProgress, stop.current.signal);
            setKept(null);
            await onDone();
        },
        onSettled: () => setProgress(null),
    });
    const columns = read.error instanceof ApiProblem ? (read.error.problem.extra?.columns as string[] | undefined) : undefined;
    return (
        <>
            <Typography variant="body2" sx={{ mb: 1 }}>
                A table of time, channel and level (or time and a level for each channel). Separator, units, decimal comma and counters that
                start anew are recognised. The {trigger.edge} edge of the crank and the {trigger.cam_edge} edge of the cam count, as entered with the wheel.
            </Typography>
            <Group title="What the file holds">
                <TextField label="Crank channel" value={choice.crank} onChange={(event) => setChoice({ ...choice, crank: event.target.value })} placeholder="found by itself" slotProps={{ inputLabel: { shrink: true } }} />
                <TextField label="Cam channel" value={choice.cam} onChange={(event) => setChoice({ ...choice, cam: event.target.value })} placeholder="found by itself" slotProps={{ inputLabel: { shrink: true } }} />
                <Choice label="Time in" value={choice.unit} onChange={(unit) => setChoice({ ...choice, unit: unit as typeof choice.unit })} options={UNITS} />
                {choice.unit === 'ticks' && <QuantityField label="One tick" unit="µs" value={choice.tick_us} onChange={(tick_us) => setChoice({ ...choice, tick_us: tick_us ?? 1 })} />}
                <QuantityField label="Begin at" unit="s" value={choice.from_s} onChange={(from_s) => setChoice({ ...choice, from_s: from_s ?? 0 })} />
            </Group>
            {progress ? (
                <Box role="status" sx={{ maxWidth: 520 }}>
                    <Typography variant="body2">{progress.sentence || 'Waiting for its turn.'}</Typography>
                    <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5 }}>
                        <LinearProgress variant={progress.share > 0 && progress.share < 1 ? 'determinate' : 'indeterminate'} value={progress.share * 100} aria-label="Progress" sx={{ flex: 1 }} />
                        <Button
                            onClick={() => {
                                setCancelled(true);
                                stop.current?.abort();
                            }}
                        >
                            Cancel
                        </Button>
                    </Stack>
                </Box>
            ) : (
                <Stack direction="row" sx={{ gap: 1.5 }}>
                    <Button variant="contained" component="label">
                        Bring a capture
                        <input
                            type="file"
                            hidden
                            aria-label="Capture file"
                            onChange={(event) => {
                                const file = event.target.files?.[0];
                                if (file) read.mutate(file);
                                event.target.value = '';
                            }}
                        />
                    </Button>
                    {kept && (
                        <Button variant="outlined" onClick={() => read.mutate(null)}>
                            Read {kept.name} again
                        </Button>
                    )}
                </Stack>
            )}
            {read.error && !wasCancelled && <ProblemNote error={read.error} />}
            {read.error && wasCancelled && <Typography variant="body2">Cancelled; nothing was written.</Typography>}
            {columns && columns.length > 0 && <Typography variant="body2">Channels in the file: {columns.join(', ')}.</Typography>}
        </>
    );
}

function BenchForm({ jobId, onDone, last }: { jobId: number; onDone: () => Promise<void>; last: Capture | undefined }) {
    const bench = useQuery(benchQuery);
    const [coolant, setCoolant] = useState<number | null>(15);
    const [held, setHeld] = useState<number | null>(6);
    // The bench engine keeps its hidden fault until another is chosen.
    const before = (last?.about.faults as { kind: string }[] | undefined)?.[0]?.kind ?? 'none';
    const [chosen, setFault] = useState<string | null>(null);
    const fault = chosen ?? before;
    const crank = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST('/api/jobs/{job_id}/bench/captures', {
                    params: { path: { job_id: jobId } },
                    body: { engine: 'stand_in', coolant_c: coolant ?? 15, crank_s: held ?? 6, faults: fault === 'none' ? [] : [fault] },
                }),
            ),
        onSuccess: onDone,
    });
    return (
        <>
            <Group title="How it is cranked">
                <QuantityField label="Engine is at" unit="°C" value={coolant} onChange={setCoolant} />
                <QuantityField label="Key held for" unit="s" value={held} onChange={setHeld} />
                <TextField select label="Hidden fault" value={fault} onChange={(event) => setFault(event.target.value)}>
                    <MenuItem value="none">none</MenuItem>
                    {(bench.data?.edge_faults ?? []).map(({ key, title }) => (
                        <MenuItem key={key} value={key}>
                            {title}
                        </MenuItem>
                    ))}
                </TextField>
                <Button variant="contained" disabled={crank.isPending || coolant === null || held === null} onClick={() => crank.mutate()}>
                    {crank.isPending ? 'Cranking …' : 'Crank and capture'}
                </Button>
            </Group>
            {crank.error && <ProblemNote error={crank.error} />}
        </>
    );
}
