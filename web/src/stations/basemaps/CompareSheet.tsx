import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Calibration, type Schemas, type Vocabulary } from '../../api/client';
import { calibrationQuery, diffQuery, revisionsQuery } from '../../api/calibration';
import { jobsQuery } from '../../api/jobs';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { formatNumber, shownUnit, toShown } from '../../units/units';
import { Choice } from '../../parts/Choice';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { displayOf } from '../../parts/tableBench/display';
import { gridOf, spanOf, tableOf, type AnyTable, type Cell, type Grid, type Region } from '../../parts/draft/grid';
import { SheetGrid, type Head } from '../../parts/tableBench/SheetGrid';
import { Surface } from '../../parts/tableBench/Surface';
import { moment } from '../../parts/when';

type How = 'numbers' | 'percent' | 'surface';

/** So many of the newest revisions can be chosen from. */
const MOST_COMPARED = 500;

/** Any two revisions, table by table: as numbers, percent or surface, and the way back. */
export function CompareSheet({ newest }: { newest: number }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const revisions = useQuery(revisionsQuery(job.id, MOST_COMPARED));
    // Until somebody chooses it is the newest and the one before, also when one is saved meanwhile.
    const [earlier, setFirst] = useState<number | null>(null);
    const [later, setSecond] = useState<number | null>(null);
    const first = earlier ?? Math.max(1, newest - 1);
    const second = later ?? newest;
    const jobs = useQuery(jobsQuery({ search: '', aside: false, offset: 0 }));
    const [other, setOther] = useState<number | null>(null);
    const before = useQuery(other === null ? calibrationQuery(job.id, first) : calibrationQuery(other));
    const after = useQuery(calibrationQuery(job.id, second));
    const diff = useQuery(other === null ? diffQuery(job.id, first, second) : diffQuery(job.id, null, second, other));
    const restore = useMutation({
        mutationFn: (revision: number) =>
            unwrap(client.POST('/api/jobs/{job_id}/calibration/restore', { params: { path: { job_id: job.id } }, body: { revision, based_on: newest, note: '' } })),
        onSuccess: async (saved) => {
            await refresh(queryClient, job.id, 'tables', 'intake');
            setSecond(saved.revision);
        },
    });
    const error = revisions.error ?? before.error ?? after.error ?? diff.error;
    if (error) return <ProblemNote error={error} />;
    if (!revisions.data || !before.data || !after.data || !diff.data) return <Loading what="Fetching both revisions" />;
    const options = Object.fromEntries(revisions.data.map((entry) => [String(entry.revision), `${entry.revision} – ${entry.note.slice(0, 42) || 'no note'}`]));
    const chosen = revisions.data.filter(({ revision }) => (other === null && revision === first) || revision === second);
    const besides = Object.fromEntries((jobs.data ?? []).filter(({ id }) => id !== job.id).map(({ id, name }) => [String(id), name]));
    return (
        <Compared
            key={`${other ?? 'own'}.${first}.${second}`}
            before={before.data}
            after={after.data}
            diff={diff.data}
            margin={
                <Stack spacing={2}>
                    {other !== null && (
                        <Typography variant="h3" component="h2">
                            Revision {diff.data.first} of {besides[String(other)]}
                        </Typography>
                    )}
                    {chosen.map((entry) => (
                        <div key={entry.revision}>
                            <Typography variant="h3" component="h2">
                                Revision {entry.revision}
                                {entry.in_the_car && ', in the car'}
                                {entry.inherited && ', as found'}
                            </Typography>
                            <Typography variant="body2" color="text.secondary">
                                {entry.author}, {moment(entry.created_at)}
                            </Typography>
                            <Typography variant="body2">{entry.note}</Typography>
                            {entry.revision !== newest && (
                                <Button size="small" variant="outlined" sx={{ mt: 0.5 }} onClick={() => restore.mutate(entry.revision)} disabled={restore.isPending}>
                                    Restore revision {entry.revision}
                                </Button>
                            )}
                        </div>
                    ))}
                    {restore.data && <Typography role="status">Revision {restore.data.revision} holds it again; nothing in between is lost.</Typography>}
                    {restore.error && <ProblemNote error={restore.error} />}
                </Stack>
            }
            head={
                <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap', alignItems: 'center' }}>
                    <Choice label="Compare with" value={String(other ?? 0)} onChange={(value) => setOther(Number(value) || null)} options={{ 0: 'this job', ...besides }} width={220} />
                    {other === null && <Choice label="From revision" value={String(first)} onChange={(value) => setFirst(Number(value))} options={options} width={250} />}
                    <Choice label="To revision" value={String(second)} onChange={(value) => setSecond(Number(value))} options={options} width={250} />
                </Stack>
            }
        />
    );
}

interface Props {
    before: Calibration;
    after: Calibration;
    diff: Schemas['DiffOut'];
    head: React.ReactNode;
    margin: React.ReactNode;
}

const STILL: Region = { from: { row: 0, column: 0 }, to: { row: 0, column: 0 } };
const NONE = new Map<string, never>();
const NO_CELLS = new Set<string>();
const leave = () => undefined;
/** A sheet that only shows. */
const INERT = { coming: NONE, locked: NO_CELLS, flagged: NONE, typing: null, cursor: null, onTyping: leave, onCommit: leave, onCopy: leave, onPaste: leave } as const;

function Compared({ before, after, diff, head, margin }: Props) {
    const { job, vocabulary } = useJob();
    const differing = vocabulary.tables.map(({ key }) => key).filter((key) => diff.tables[key]?.length || diff.reshaped.includes(key));
    // What can be set side by side value by value comes first.
    const keys = [...differing.filter((key) => !diff.reshaped.includes(key)), ...differing.filter((key) => diff.reshaped.includes(key))];
    const [table, setTable] = useState(keys.find((key) => after.tables[key]?.axes.length === 2 && !diff.reshaped.includes(key)) ?? keys[0] ?? '');
    const [how, setHow] = useState<How>('numbers');
    const [region, setRegion] = useState(STILL);
    const definition = vocabulary.tables.find(({ key }) => key === table);
    const old = tableOf(before, table);
    const now = tableOf(after, table);
    const isReshaped = diff.reshaped.includes(table);
    const select = (cell: Cell) => setRegion({ from: cell, to: cell });
    return (
        <WithMargin margin={margin}>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Compare revisions
            </Typography>
            {head}
            {keys.length === 0 && <Typography sx={{ mt: 2 }}>No value differs between them.</Typography>}
            {definition && (
                <>
                    <Stack direction="row" sx={{ gap: 1, my: 1.5, flexWrap: 'wrap', alignItems: 'center' }}>
                        <Choice
                            label="Table"
                            value={table}
                            onChange={(key) => {
                                setTable(key);
                                setRegion(STILL);
                            }}
                            options={Object.fromEntries(keys.map((key) => [key, titleWithCount(vocabulary.tables, key, diff)]))}
                            width={330}
                        />
                        <ToggleButtonGroup size="small" exclusive value={how} onChange={(_, next: How | null) => next && setHow(next)} aria-label="Compare as">
                            <ToggleButton value="numbers">Numbers</ToggleButton>
                            <ToggleButton value="percent">Percent</ToggleButton>
                            {now?.axes.length === 2 && !isReshaped && <ToggleButton value="surface">Surface</ToggleButton>}
                        </ToggleButtonGroup>
                    </Stack>
                    {!old || !now ? (
                        <Typography>{old ? 'Only the earlier one has this table.' : 'Only the later one has this table.'}</Typography>
                    ) : isReshaped ? (
                        <>
                            <Typography>The breakpoints differ, so both stand as they are.</Typography>
                            <AsItIs title="The first" definition={definition} table={old} units={job.units} />
                            <AsItIs title="The second" definition={definition} table={now} units={job.units} />
                        </>
                    ) : (
                        <Picture definition={definition} old={gridOf(old)} now={gridOf(now)} axes={now.axes} how={how} region={region} onSelect={select} units={job.units} />
                    )}
                </>
            )}
        </WithMargin>
    );
}

function titleWithCount(tables: Schemas['TableDefinition'][], key: string, diff: Schemas['DiffOut']): string {
    const title = tables.find((table) => table.key === key)?.title ?? key;
    const count = diff.tables[key]?.length;
    return count ? `${title}: ${count} ${count === 1 ? 'value' : 'values'}` : `${title}: other breakpoints`;
}

/** Heads of a table in the units of the job. */
function headsOf(axes: Schemas['Axis'][], units: Record<string, string>, vocabulary: Vocabulary): Head[] {
    return axes.map((axis): Head => {
        const points = axis.points.map((point) => toShown(point, axis.unit, units));
        return { title: vocabulary.axes.find(({ name }) => name === axis.name)?.title ?? axis.name, unit: shownUnit(axis.unit, units), points, decimals: points.every((point) => Math.abs(point - Math.round(point)) < 0.05) ? 0 : 1 };
    });
}

interface AsItIsProps {
    title: string;
    definition: Schemas['TableDefinition'];
    table: AnyTable;
    units: Record<string, string>;
}

/** A table that no other is compared with value by value. */
function AsItIs({ title, definition, table, units }: AsItIsProps) {
    const { vocabulary } = useJob();
    const display = displayOf(definition, undefined, units, true);
    const heads = headsOf(table.axes, units, vocabulary);
    const grid = gridOf(table);
    return (
        <Box sx={{ mt: 1.5 }}>
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                {title}
            </Typography>
            <SheetGrid
                {...INERT}
                label={`${definition.title}, ${title.toLowerCase()}`}
                down={heads[0] ?? { title: '', unit: '', points: [0], decimals: 0 }}
                across={heads[1] ?? null}
                grid={grid}
                saved={grid}
                show={display.show}
                decimals={display.decimals}
                region={STILL}
                onSelect={leave}
                onKey={leave}
            />
        </Box>
    );
}

interface PictureProps {
    definition: Schemas['TableDefinition'];
    old: Grid;
    now: Grid;
    axes: Schemas['Axis'][];
    how: How;
    region: Region;
    onSelect: (cell: Cell) => void;
    units: Record<string, string>;
}

function Picture({ definition, old, now, axes, how, region, onSelect, units }: PictureProps) {
    const { vocabulary } = useJob();
    const display = displayOf(definition, undefined, units, true);
    const heads = headsOf(axes, units, vocabulary);
    const down = heads[0] ?? { title: '', unit: '', points: [0], decimals: 0 };
    const across = heads[1] ?? null;
    const off = now.map((line, row) => line.map((value, column) => value - (old[row]?.[column] ?? value)));
    const [low, high] = spanOf(off);
    const most = Math.max(Math.abs(low), Math.abs(high), 1e-9);
    const at = region.to;
    if (how === 'surface' && across) {
        return <Surface label={`${definition.title}: the later revision as a surface, the earlier one as lines`} down={down} across={across} grid={now} other={old} show={display.show} unit={display.unit} decimals={display.decimals} selected={at} cursor={null} />;
    }
    const signed = (value: number, decimals: number) => (Math.abs(value) < 0.5 * 10 ** -decimals ? '·' : `${value > 0 ? '+' : ''}${formatNumber(value, decimals)}`);
    return (
        <Box>
            <SheetGrid
                {...INERT}
                label={`${definition.title}, what changed`}
                down={down}
                across={across}
                grid={now}
                saved={now}
                show={display.show}
                decimals={display.decimals}
                region={region}
                ink={(row, column) => (off[row]?.[column] ?? 0) / most}
                content={(row, column) => {
                    const by = off[row]?.[column] ?? 0;
                    const from = old[row]?.[column] ?? 0;
                    return how === 'percent' ? (from === 0 ? '–' : signed((100 * by) / from, 1)) : signed(by * display.factor, display.decimals);
                }}
                onSelect={onSelect}
                onKey={(event) => {
                    const by = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
                    if (!by) return;
                    event.preventDefault();
                    onSelect({
                        row: Math.min(now.length - 1, Math.max(0, at.row + (by[0] ?? 0))),
                        column: Math.min((now[0]?.length ?? 1) - 1, Math.max(0, at.column + (by[1] ?? 0))),
                    });
                }}
            />
            <Typography variant="body2" sx={{ mt: 0.5 }}>
                {how === 'percent' ? 'Percent of the earlier value.' : `In ${display.unit || 'plain numbers'}.`} Blue-green is more, ochre is less. The selected cell: {formatNumber(display.show(old[at.row]?.[at.column] ?? 0), display.decimals)} →{' '}
                {formatNumber(display.show(now[at.row]?.[at.column] ?? 0), display.decimals)} {display.unit}.
            </Typography>
        </Box>
    );
}
