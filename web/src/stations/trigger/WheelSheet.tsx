import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { client, unwrap, type Schemas, type TriggerEntry } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { Choice } from '../../parts/Choice';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { useComputed } from '../../parts/useComputed';
import { numbersOf, textOf } from '../../parts/numberList';
import { WheelDrawing } from './WheelDrawing';

const KINDS = { pattern: 'a common pattern', toothed: 'by teeth and gap', edges: 'by the angle of every edge' };
const SENSORS = { hall: 'Hall', inductive: 'inductive' };
const EDGES = { rising: 'rising', falling: 'falling' };

interface Drafted {
    entry: TriggerEntry;
    teeth: number | null;
    missing: number | null;
    offset: number | null;
    filter: number | null;
    edges: string;
    camEdges: string;
    order: string;
}

function drafted(entry: TriggerEntry): Drafted {
    return {
        entry,
        teeth: entry.teeth,
        missing: entry.missing,
        offset: entry.offset_deg,
        filter: entry.filter_us,
        edges: textOf(entry.edges_deg),
        camEdges: textOf(entry.cam_edges_deg),
        order: entry.firing_order.join(' '),
    };
}

/** What is to be sent; null while a number is half typed. */
function entryOf(draft: Drafted): TriggerEntry | null {
    const edges = numbersOf(draft.edges);
    const cam = numbersOf(draft.camEdges);
    const order = numbersOf(draft.order);
    if (draft.offset === null || draft.filter === null || !edges || !cam || !order) return null;
    if (draft.entry.kind === 'toothed' && (draft.teeth === null || draft.missing === null)) return null;
    return {
        ...draft.entry,
        teeth: draft.teeth ?? draft.entry.teeth,
        missing: draft.missing ?? draft.entry.missing,
        offset_deg: draft.offset,
        filter_us: draft.filter,
        edges_deg: edges,
        cam_edges_deg: cam,
        firing_order: order,
    };
}

/** The wheel, its sensors, and where top dead centre is. */
export function WheelSheet({ saved }: { saved: Schemas['TriggerOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [draft, setDraft] = useState(() => drafted(saved.trigger));
    const change = (part: Partial<Drafted>) => setDraft((old) => ({ ...old, ...part }));
    const set = (part: Partial<TriggerEntry>) => setDraft((old) => ({ ...old, entry: { ...old.entry, ...part } }));
    const path = { params: { path: { job_id: job.id } } };
    const entry = entryOf(draft);
    const preview = useComputed(`trigger-${job.id}`, entry && { trigger: entry }, (body) => unwrap(client.POST('/api/jobs/{job_id}/trigger/preview', { ...path, body })));
    const save = useMutation({
        mutationFn: (trigger: TriggerEntry) => unwrap(client.POST('/api/jobs/{job_id}/trigger', { ...path, body: { trigger } })),
        onSuccess: () => refresh(queryClient, job.id, 'trigger', 'wiring'),
    });
    const problem = (name: string) => fieldProblem([save.error, entry ? preview.error : null], name);
    const picture = preview.error ? null : (preview.data?.picture ?? saved.picture);
    const isSaved = saved.number > 0 && JSON.stringify(entry) === JSON.stringify(saved.trigger);
    const { kind } = draft.entry;
    return (
        <WithMargin
            margin={
                <>
                    {picture ? <WheelDrawing picture={picture} /> : <Typography variant="body2">The wheel is drawn here once its edges make one.</Typography>}
                    {picture && (
                        <Box sx={{ mt: 2 }}>
                            <Sentences sentences={picture.sentences} level="good" />
                        </Box>
                    )}
                </>
            }
        >
            <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mb: 1.5 }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Trigger wheel
                </Typography>
                <Button variant="contained" disabled={!entry || save.isPending || isSaved} onClick={() => entry && save.mutate(entry)}>
                    {isSaved ? `Version ${saved.number} saved` : 'Save the trigger'}
                </Button>
            </Stack>
            {save.error && <ProblemNote error={save.error} />}
            {preview.error && entry && <ProblemNote error={preview.error} />}
            <Group title="Wheel" columns="repeat(3, minmax(0, 1fr))">
                <Choice label="The wheel is" value={kind} onChange={(value) => set({ kind: value as TriggerEntry['kind'] })} options={KINDS} />
                {kind === 'pattern' && (
                    <Choice label="Pattern" value={draft.entry.pattern} onChange={(pattern) => set({ pattern })} options={Object.fromEntries(saved.patterns.map((name) => [name, name]))} error={problem('pattern')} />
                )}
                {kind === 'toothed' && (
                    <>
                        <QuantityField label="Teeth, with the missing" unit="" value={draft.teeth} onChange={(teeth) => change({ teeth })} error={problem('teeth')} />
                        <QuantityField label="Missing in the gap" unit="" value={draft.missing} onChange={(missing) => change({ missing })} />
                    </>
                )}
                {kind !== 'pattern' && <FormControlLabel label="Turns with the cam" control={<Checkbox checked={draft.entry.on_cam} onChange={(event) => set({ on_cam: event.target.checked })} />} />}
            </Group>
            {kind === 'edges' && (
                <TextField label="Angle of every edge, ° of the crankshaft" value={draft.edges} onChange={(event) => change({ edges: event.target.value })} error={Boolean(problem('edges_deg')) || !numbersOf(draft.edges)} helperText={problem('edges_deg') ?? 'in the order in which they pass, parted by blanks'} multiline fullWidth sx={{ mb: 2 }} />
            )}
            {kind !== 'pattern' && (
                <TextField label="Cam edges, ° of the crankshaft in 720" value={draft.camEdges} onChange={(event) => change({ camEdges: event.target.value })} error={Boolean(problem('cam_edges_deg')) || !numbersOf(draft.camEdges)} helperText={problem('cam_edges_deg') ?? 'from the first edge behind the gap; empty without a cam signal'} fullWidth sx={{ mb: 2 }} />
            )}
            <Group title="Sensors">
                <Choice label="Crank sensor" value={draft.entry.crank_kind} onChange={(value) => set({ crank_kind: value as TriggerEntry['crank_kind'] })} options={SENSORS} help="the same entry as in the wiring" />
                <Choice label="Edge that counts" value={draft.entry.edge} onChange={(value) => set({ edge: value as TriggerEntry['edge'] })} options={EDGES} />
                <Choice label="Cam sensor" value={draft.entry.cam_kind} onChange={(value) => set({ cam_kind: value as TriggerEntry['cam_kind'] })} options={{ ...SENSORS, none: 'none' }} />
                <Choice label="Cam edge" value={draft.entry.cam_edge} onChange={(value) => set({ cam_edge: value as TriggerEntry['cam_edge'] })} options={EDGES} />
            </Group>
            <Group title="Place and filter">
                <QuantityField label="Offset to TDC 1" unit="°" value={draft.offset} onChange={(offset) => change({ offset })} error={problem('offset_deg')} help="from the first edge" />
                <Choice
                    label="A larger offset"
                    value={draft.entry.raising_advances ? 'earlier' : 'later'}
                    onChange={(value) => set({ raising_advances: value === 'earlier' })}
                    options={{ earlier: 'makes the spark earlier', later: 'makes it later' }}
                />
                <QuantityField label="Filter" unit="µs" value={draft.filter} onChange={(filter) => change({ filter })} error={problem('filter_us')} help="0 for none" />
                <TextField label="Firing order" value={draft.order} onChange={(event) => change({ order: event.target.value })} error={Boolean(problem('firing_order')) || !numbersOf(draft.order)} helperText={problem('firing_order') ?? 'empty if not known'} />
            </Group>
            <TextField label="Note" value={draft.entry.note} onChange={(event) => set({ note: event.target.value })} fullWidth sx={{ mb: 2 }} />
            <Typography>
                Next: <Link to={`/jobs/${job.id}/trigger/capture`}>crank and capture the edges</Link>. The offset is only a beginning until the timing light agrees.
            </Typography>
        </WithMargin>
    );
}
