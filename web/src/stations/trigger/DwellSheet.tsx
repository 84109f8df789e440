import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { dwellQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { formatNumber } from '../../units/units';
import { Choice } from '../../parts/Choice';
import { CurvePlot } from '../../parts/CurvePlot';
import { Facts } from '../../parts/Facts';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { Loading } from '../../parts/Loading';
import { PointGrid, type Row } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { DATA_FROM } from '../../parts/provenanceWords';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { SmallTable } from '../../parts/SmallTable';
import { useComputed } from '../../parts/useComputed';

type Entry = Schemas['DwellEntry'];

/** How long the coil is fed at each battery voltage, and what limits it. */
export function DwellSheet() {
    const { job } = useJob();
    const dwell = useQuery(dwellQuery(job.id));
    if (!dwell.data) return dwell.error ? <ProblemNote error={dwell.error} /> : <Loading what="Opening the dwell" />;
    return <Sheet key={dwell.data.number} saved={dwell.data} />;
}

interface Drafted {
    name: string;
    by: 'coil' | 'table';
    ohm: number | null;
    mh: number | null;
    amps: number | null;
    points: Row[];
    provenance: Entry['provenance'];
}

function drafted(entry: Entry, isKnown: boolean): Drafted {
    return {
        name: isKnown ? entry.name : '',
        by: entry.coil ? 'coil' : 'table',
        ohm: entry.coil?.resistance_ohm ?? null,
        mh: entry.coil?.inductance_mh ?? null,
        amps: entry.coil?.current_a ?? null,
        points: entry.points,
        provenance: entry.provenance,
    };
}

function entryOf(draft: Drafted): Entry | null {
    const points = draft.points.filter((row): row is number[] => row.every((cell) => cell !== null));
    const common = { name: draft.name, provenance: draft.provenance };
    if (draft.by === 'table') return points.length > 1 ? { ...common, coil: null, points } : null;
    if (draft.ohm === null || draft.mh === null || draft.amps === null) return null;
    return { ...common, coil: { resistance_ohm: draft.ohm, inductance_mh: draft.mh, current_a: draft.amps }, points: [] };
}

function Sheet({ saved }: { saved: Schemas['DwellOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [draft, setDraft] = useState(() => drafted(saved.dwell, saved.number > 0));
    const change = (part: Partial<Drafted>) => setDraft((old) => ({ ...old, ...part }));
    const path = { params: { path: { job_id: job.id } } };
    const entry = entryOf(draft);
    const preview = useComputed(`dwell-${job.id}-${job.revision}`, entry && { dwell: { ...entry, name: entry.name || 'not named yet' } }, (body) =>
        unwrap(client.POST('/api/jobs/{job_id}/dwell/preview', { ...path, body })),
    );
    const save = useMutation({
        mutationFn: (dwell: Entry) => unwrap(client.POST('/api/jobs/{job_id}/dwell', { ...path, body: { dwell } })),
        onSuccess: () => refresh(queryClient, job.id, 'trigger', 'tables'),
    });
    const problem = (name: string) => fieldProblem([save.error, entry ? preview.error : null], name);
    const answer = entry && !preview.error ? (preview.data ?? saved) : undefined;
    const sheet = answer?.sheet;
    const isSaved = saved.number > 0 && JSON.stringify(entry) === JSON.stringify(entryOf(drafted(saved.dwell, true)));
    return (
        <WithMargin margin={<DwellFacts sheet={sheet} answer={answer} />}>
            <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mb: 1.5 }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Dwell
                </Typography>
                <Button variant="contained" disabled={!entry || !draft.name.trim() || save.isPending || isSaved} onClick={() => entry && save.mutate(entry)}>
                    {isSaved ? 'Saved, in the table' : 'Save and put in the table'}
                </Button>
            </Stack>
            {saved.number === 0 && <Typography sx={{ mb: 1 }}>No coil is entered: the table holds a middling one, marked assumed.</Typography>}
            {sheet && <Sentences sentences={sheet.sentences} level={sheet.level} />}
            {save.error && <ProblemNote error={save.error} />}
            {preview.error && entry && <ProblemNote error={preview.error} />}
            <TheCoil draft={draft} change={change} problem={problem} />
            <DwellCurves draft={draft} change={change} problem={problem} sheet={sheet} answer={answer} />
        </WithMargin>
    );
}

interface DwellCurvesProps {
    draft: Drafted;
    change: (part: Partial<Drafted>) => void;
    problem: (name: string) => string | undefined;
    sheet: Schemas['DwellSheet'] | undefined;
    answer: Schemas['DwellOut'] | undefined;
}

/** The maker's table, dwell over voltage and duty over speed. */
function DwellCurves({ draft, change, problem, sheet, answer }: DwellCurvesProps) {
    return (
        <Box sx={{ display: 'grid', gap: 3, gridTemplateColumns: { xs: 'minmax(0, 1fr)', sm: draft.by === 'table' ? '240px minmax(0, 1fr)' : 'repeat(2, minmax(0, 1fr))' }, alignItems: 'start' }}>
            {draft.by === 'table' && (
                <PointGrid
                    title="Maker's table"
                    columns={[
                        { title: 'At', unit: 'V' },
                        { title: 'Dwell', unit: 'ms' },
                    ]}
                    rows={draft.points}
                    onChange={(points) => change({ points })}
                    purpose="dwell"
                    error={problem('points')}
                />
            )}
            {sheet && (
                <CurvePlot
                    title="Dwell over battery voltage"
                    xLabel="Battery, V"
                    yLabel="ms"
                    series={[{ name: 'dwell', points: sheet.cells.map((cell) => [cell.battery_v, cell.dwell_ms] as const) }]}
                    dots={sheet.cells.flatMap((cell) => (cell.dwell_ms === null ? [] : [[cell.battery_v, cell.dwell_ms] as const]))}
                    height={300}
                    yEnds={[0]}
                />
            )}
            {sheet && answer && sheet.duty.length > 0 && (
                <CurvePlot
                    title="Duty of one coil at 14 V"
                    xLabel="Speed, rpm"
                    yLabel="%"
                    series={[{ name: 'duty', points: sheet.duty.map(([rpm = 0, duty = 0]) => [rpm, duty] as const) }]}
                    xLimits={[{ at: answer.rev_limit_rpm, label: 'limit' }]}
                    height={300}
                    yEnds={[0, 100]}
                />
            )}
        </Box>
    );
}

/** Which coil it is, by its primary or by a maker's table. */
function TheCoil({ draft, change, problem }: { draft: Drafted; change: (part: Partial<Drafted>) => void; problem: (name: string) => string | undefined }) {
    const { vocabulary } = useJob();
    return (
        <Group title="The coil" columns="repeat(3, minmax(0, 1fr))">
            <TextField label="Which coil" value={draft.name} onChange={(event) => change({ name: event.target.value })} error={Boolean(problem('name'))} helperText={problem('name')} required />
            <ToggleButtonGroup exclusive size="small" value={draft.by} aria-label="Known by" onChange={(_, by: Drafted['by'] | null) => by && change({ by })}>
                <ToggleButton value="coil">By its primary</ToggleButton>
                <ToggleButton value="table">By a maker's table</ToggleButton>
            </ToggleButtonGroup>
            <Choice label="Data from" value={draft.provenance} onChange={(value) => change({ provenance: value as Entry['provenance'] })} options={Object.fromEntries(vocabulary.provenance.map((key) => [key, DATA_FROM[key] ?? key]))} />
            {draft.by === 'coil' && (
                <>
                    <QuantityField label="Resistance, with its leads" unit="Ω" value={draft.ohm} onChange={(ohm) => change({ ohm })} error={problem('resistance_ohm')} />
                    <QuantityField label="Inductance" unit="mH" value={draft.mh} onChange={(mh) => change({ mh })} error={problem('inductance_mh')} />
                    <QuantityField label="Wanted current" unit="A" value={draft.amps} onChange={(amps) => change({ amps })} error={problem('current_a')} />
                </>
            )}
        </Group>
    );
}

/** Dwell on the controller's axis, and what one coil bears. */
function DwellFacts({ sheet, answer }: { sheet: Schemas['DwellSheet'] | undefined; answer: Schemas['DwellOut'] | undefined }) {
    return (
        sheet && answer ? (
            <>
                <SmallTable
                    title="On the controller's axis"
                    heads={['V', 'ms', '']}
                    rows={sheet.cells.map((cell) => [formatNumber(cell.battery_v, 1), cell.dwell_ms === null ? '–' : formatNumber(cell.dwell_ms, 2), cell.held ? 'held' : cell.dwell_ms === null ? 'never' : ''])}
                    {...(sheet.cells.some((cell) => cell.dwell_ms === null)
                        ? { foot: 'never: the current is not reached at that voltage; the table then holds three time constants.' }
                        : {})}
                />
                <Facts
                    title="Limits of one coil"
                    facts={[
                        { name: 'Sparks in a turn', value: answer.sparks_per_turn, unit: '', decimals: 1 },
                        { name: 'Rev limit', value: answer.rev_limit_rpm, unit: 'rpm', decimals: 0 },
                        { name: 'Longest at the limit', value: sheet.longest_ms, unit: 'ms', decimals: 2 },
                        { name: 'Duty at the limit', value: sheet.duty_pct, unit: '%', decimals: 0 },
                        { name: 'Whole dwell up to', value: sheet.full_until_rpm, unit: 'rpm', decimals: 0 },
                        { name: 'Heat at the limit', value: sheet.power_w, unit: 'W', decimals: 0 },
                    ]}
                />
            </>
        ) : (
            <Typography variant="body2">The dwell over voltage and its limits stand here once the coil is entered.</Typography>
        )
    );
}
