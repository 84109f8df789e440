import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { transferQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';
import { formatNumber, shownUnit, toShown, namedUnit } from '../../units/units';
import { CurvePlot } from '../../parts/CurvePlot';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { moment } from '../../parts/when';

type Sheet = Schemas['TransferSheetOut'];
type Table = Schemas['TransferTable'];

const FORMATS: [string, string][] = [
    ['json', 'JSON'],
    ['csv', 'CSV, one file'],
    ['csv-set', 'CSV, a file for each table'],
    ['workbook', 'Spreadsheet workbook'],
];

/** What has to be typed to bring the newest revision into the controller, and files to load. */
export function TransferSheet() {
    const { job } = useJob();
    const sheet = useQuery(transferQuery(job.id));
    if (!sheet.data) return sheet.error ? <ProblemNote error={sheet.error} /> : <Loading what="Working out what changed" />;
    return <Typed key={`${sheet.data.revision}.${sheet.data.in_the_car?.revision ?? 0}`} sheet={sheet.data} />;
}

function storageName(jobId: number, revision: number): string {
    return `inbetrieb.transfer.${jobId}.${revision}`;
}

function storedTicks(name: string): string[] {
    try {
        const ticks: unknown = JSON.parse(localStorage.getItem(name) ?? '[]');
        return Array.isArray(ticks) ? ticks.filter((tick): tick is string => typeof tick === 'string') : [];
    } catch {
        return [];
    }
}

function Typed({ sheet }: { sheet: Sheet }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const name = storageName(job.id, sheet.revision);
    const [ticks, setTicks] = useState<ReadonlySet<string>>(() => new Set(storedTicks(name)));
    const [note, setNote] = useState('');
    const confirm = useMutation({
        mutationFn: (how: 'typed' | 'loaded') =>
            unwrap(
                client.POST('/api/jobs/{job_id}/transfer', {
                    params: { path: { job_id: job.id } },
                    body: { revision: sheet.revision, how, ticked: valid.length, note },
                }),
            ),
        onSuccess: () => refresh(queryClient, job.id, 'transfer'),
        onError: () => queryClient.invalidateQueries({ queryKey: transferQuery(job.id).queryKey }),
    });
    const all = sheet.tables.flatMap((table) => table.cells.map((cell) => tickOf(table, cell.index)));
    const valid = all.filter((tick) => ticks.has(tick));
    const tick = (keys: string[], on: boolean) => {
        const next = new Set(ticks);
        keys.forEach((key) => (on ? next.add(key) : next.delete(key)));
        setTicks(next);
        try {
            localStorage.setItem(name, JSON.stringify([...next]));
        } catch {
            // Full: the ticks stay on the screen.
        }
    };
    return (
        <WithMargin
            follows
            margin={<InTheCar sheet={sheet} />}
        >
            <Stack direction="row" sx={{ alignItems: 'baseline', gap: 1 }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Transfer sheet, revision {sheet.revision}
                </Typography>
                {sheet.tables.length > 0 && (
                    <Button size="small" className="no-print" onClick={() => window.print()}>
                        Print
                    </Button>
                )}
            </Stack>
            <Typography sx={{ mb: 1 }}>
                {sheet.lines === 0
                    ? 'Nothing has to be typed: the controller holds just these values.'
                    : `${sheet.lines} values to type into ${sheet.controller || 'the controller'}${sheet.in_the_car ? `, those that changed since revision ${sheet.in_the_car.revision}` : ''}, in its own units and rounding. ${valid.length} ticked.`}
            </Typography>
            {!sheet.controller && (
                <Typography variant="body2" sx={{ mb: 1 }}>
                    No controller is chosen at station 2, so values stand in canonical units.
                </Typography>
            )}
            {sheet.outputs.length > 0 && (
                <Typography variant="body2" sx={{ mb: 1 }}>
                    With the outputs: {sheet.outputs.map((line) => `${line.title.toLowerCase()} ${formatNumber(toShown(line.value, line.unit, job.units), line.unit === 's' ? 1 : 0)} ${shownUnit(line.unit, job.units)}`).join(', ')}.
                </Typography>
            )}
            {sheet.tables.map((table) => (
                <TableToType key={table.key} table={table} ticks={ticks} onTick={tick} />
            ))}
            <Confirm
                note={note}
                isBusy={confirm.isPending}
                onConfirm={confirm.mutate}
                onNote={setNote}
                left={all.length - valid.length}
                all={all.length}
                error={confirm.error}
                done={confirm.data}
            />
        </WithMargin>
    );
}

interface ConfirmProps {
    note: string;
    isBusy: boolean;
    onConfirm: (how: 'typed' | 'loaded') => void;
    onNote: (note: string) => void;
    left: number;
    all: number;
    error: Error | null;
    done: Schemas['TransferOut'] | undefined;
}

/** The note, and that it was typed or loaded. */
function Confirm({ note, isBusy, onConfirm, onNote, left, all, error, done }: ConfirmProps) {
    return (
        <Box className="no-print" sx={{ borderTop: 1, borderColor: 'divider', pt: 1.5, mt: 1 }}>
            <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap', alignItems: 'center' }}>
                <TextField label="Note" value={note} onChange={(event) => onNote(event.target.value)} sx={{ flex: '1 1 200px' }} />
                <Button variant="contained" sx={{ minHeight: 40 }} disabled={isBusy || left > 0 || all === 0} onClick={() => onConfirm('typed')}>
                    Confirm transferred
                </Button>
                <Button variant="outlined" sx={{ minHeight: 40 }} disabled={isBusy} onClick={() => onConfirm('loaded')}>
                    It was loaded as a file
                </Button>
            </Stack>
            {left > 0 && <Typography variant="body2">Tick each value once it stands in the controller; then confirm.</Typography>}
            {error && <ProblemNote error={error} />}
            {done && <Typography role="status">Revision {done.revision} is in the car.</Typography>}
        </Box>
    );
}

/** What stands in the controller, files to load, and what was brought before. */
function InTheCar({ sheet }: { sheet: Sheet }) {
    const { job } = useJob();
    return (
        <Stack spacing={2}>
            <div>
                <Typography variant="h2">In the car</Typography>
                {sheet.in_the_car ? (
                    <Typography variant="body2">
                        Revision {sheet.in_the_car.revision}, {sheet.in_the_car.how} by {sheet.in_the_car.author}, {moment(sheet.in_the_car.created_at)}.
                    </Typography>
                ) : (
                    <Typography variant="body2">Nothing was confirmed yet: the whole calibration stands here.</Typography>
                )}
            </div>
            <div className="no-print">
                <Typography variant="h2">Files of revision {sheet.revision}</Typography>
                {FORMATS.map(([format, label]) => (
                    <Button key={format} component="a" href={`/api/jobs/${job.id}/export?format=${format}`} download size="small" sx={{ display: 'block', px: 0 }}>
                        {label}
                    </Button>
                ))}
            </div>
            {sheet.history.length > 1 && (
                <div>
                    <Typography variant="h3">Before</Typography>
                    {sheet.history.slice(1, 8).map((entry) => (
                        <Typography key={entry.created_at} variant="body2">
                            Revision {entry.revision}, {entry.lines} values {entry.how}, {moment(entry.created_at)}
                        </Typography>
                    ))}
                </div>
            )}
        </Stack>
    );
}

function tickOf(table: Table, index: readonly number[]): string {
    return `${table.key}:${index.join('.')}`;
}

interface TableProps {
    table: Table;
    ticks: ReadonlySet<string>;
    onTick: (keys: string[], on: boolean) => void;
}

/** One value to type, with the box that says it stands in the controller. */
function TransferCell({ table, cell, ticks, onTick }: TableProps & { cell: Table['cells'][number] }) {
    const decimals = Math.max(0, Math.min(4, Math.ceil(-Math.log10(table.step) - 1e-9)));
    const key = tickOf(table, cell.index);
    const places = cell.at.map((at, n) => `${at} ${table.axes[n]?.unit ?? ''}`).join(', ');
    return (
        <Box
            component="label"
            sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.25, cursor: 'pointer', color: ticks.has(key) ? 'text.secondary' : 'text.primary' }}
            title={cell.before === null ? 'not known what stands there' : `stands at ${formatNumber(cell.before, decimals)}`}
        >
            {formatNumber(cell.value, decimals)}
            <Checkbox
                size="small"
                sx={{ p: 0.25 }}
                checked={ticks.has(key)}
                onChange={(event) => onTick([key], event.target.checked)}
                slotProps={{ input: { 'aria-label': `${table.title}${places && ` at ${places}`}: ${cell.value} ${table.unit}` } }}
            />
        </Box>
    );
}

/** One table to type, laid out as it stands in the controller; what stays is left empty. */
function TableToType({ table, ticks, onTick }: TableProps) {
    const { job } = useJob();
    const [down, across] = table.axes;
    const keys = table.cells.map((cell) => tickOf(table, cell.index));
    const done = keys.filter((key) => ticks.has(key)).length;
    const cellAt = new Map(table.cells.map((cell) => [cell.index.join('.'), cell]));
    const rows = down ? down.points.map((point, i) => ({ point, i })).filter(({ i }) => table.cells.some((cell) => cell.index[0] === i)) : [];
    const columns = across ? across.points.map((point, j) => ({ point, j })).filter(({ j }) => table.cells.some((cell) => cell.index[1] === j)) : [{ point: 0, j: -1 }];
    const head = (axis: Schemas['SheetAxis'], point: number) => formatNumber(toShown(point, axis.unit, job.units), Math.abs(point - Math.round(point)) < 0.05 ? 0 : 1);
    const field = (index: string) => {
        const cell = cellAt.get(index);
        return cell ? <TransferCell table={table} cell={cell} ticks={ticks} onTick={onTick} /> : null;
    };
    return (
        <Box component="section" sx={{ mb: 2.5, breakInside: 'avoid' }}>
            <Stack direction="row" sx={{ alignItems: 'baseline', gap: 1, flexWrap: 'wrap' }}>
                <Typography variant="h2">
                    {table.title} [{namedUnit(table.unit)}]
                </Typography>
                <Typography variant="body2" color="text.secondary" sx={{ flex: 1 }}>
                    {table.whole ? 'all of it' : `${table.cells.length} changed, ${table.same} stay`}
                </Typography>
                <Button size="small" className="no-print" onClick={() => onTick(keys, done < keys.length)}>
                    {done < keys.length ? `Tick all ${keys.length}` : 'Take the ticks away'}
                </Button>
            </Stack>
            {table.sentences.map((sentence, i) => (
                <Typography key={sentence} variant="body2" sx={table.too_large && i === 0 ? { color: 'warning.main', fontWeight: 650 } : {}}>
                    {inUnits(sentence)}
                </Typography>
            ))}
            <Box sx={{ overflowX: 'auto' }}>
                <TypedTable table={table} across={across} down={down} columns={columns} head={head} field={field} rows={rows} />
            </Box>
            {table.fit && <Fit table={table} fit={table.fit} />}
        </Box>
    );
}

interface TypedTableProps {
    table: Schemas['TransferTable'];
    across: Schemas['SheetAxis'] | undefined;
    down: Schemas['SheetAxis'] | undefined;
    columns: { point: number; j: number }[];
    head: (axis: Schemas['SheetAxis'], point: number) => string;
    field: (index: string) => ReactNode;
    rows: { point: number; i: number }[];
}

/** The table as it stands in the controller. */
function TypedTable({ table, across, down, columns, head, field, rows }: TypedTableProps) {
    const { job } = useJob();
    return (
        <Box
            component="table"
            aria-label={table.title}
            sx={{ borderCollapse: 'collapse', fontFamily: mono, fontSize: '0.9rem', '& td, & th': { textAlign: 'right', border: '1px solid', borderColor: 'divider', px: 0.75, py: 0 }, '& th': { color: 'text.secondary', fontWeight: 600 } }}
        >
            {across && down && (
                <thead>
                    <tr>
                        <th scope="col">
                            {shownUnit(down.unit, job.units)} ↓ {shownUnit(across.unit, job.units)} →
                        </th>
                        {columns.map(({ point, j }) => (
                            <th key={j} scope="col">
                                {head(across, point)}
                            </th>
                        ))}
                    </tr>
                </thead>
            )}
            <tbody>
                {!down && (
                    <tr>
                        <td>{field('')}</td>
                    </tr>
                )}
                {down &&
                    (across ? (
                        rows.map(({ point, i }) => (
                            <tr key={i}>
                                <th scope="row">{head(down, point)}</th>
                                {columns.map(({ j }) => (
                                    <td key={j}>{field(`${i}.${j}`)}</td>
                                ))}
                            </tr>
                        ))
                    ) : (
                        // A curve lies down, so that a sheet of paper holds many.
                        <>
                            <tr>
                                <th scope="row">{shownUnit(down.unit, job.units)}</th>
                                {rows.map(({ point, i }) => (
                                    <th key={i} scope="col">
                                        {head(down, point)}
                                    </th>
                                ))}
                            </tr>
                            <tr>
                                <th scope="row">{namedUnit(table.unit)}</th>
                                {rows.map(({ i }) => (
                                    <td key={i}>{field(String(i))}</td>
                                ))}
                            </tr>
                        </>
                    ))}
            </tbody>
        </Box>
    );
}

/** What few values give against the curve, at every temperature. */
function Fit({ table, fit }: { table: Table; fit: Schemas['ThreePointFit'] }) {
    const { job } = useJob();
    const t = (celsius: number) => toShown(celsius, '°C', job.units);
    return (
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: '360px 1fr' }, gap: 2, mt: 1, alignItems: 'start' }}>
            <CurvePlot
                title={`${table.title}: the curve, and what ${fit.values.length} values give`}
                xLabel={`coolant, ${shownUnit('°C', job.units)}`}
                yLabel={table.unit}
                series={[
                    { name: 'curve', points: fit.residuals.map((r) => [t(r.at_c), r.wanted] as const), look: 'broken' },
                    { name: `${fit.values.length} values`, points: fit.residuals.map((r) => [t(r.at_c), r.given] as const) },
                ]}
                dots={fit.points_c.map((c, i) => [t(c), fit.values[i] ?? 0] as const)}
                height={230}
            />
            <Residuals fit={fit} t={t} />
        </Box>
    );
}

/** Curve against what the values give, temperature by temperature. */
function Residuals({ fit, t }: { fit: Schemas['ThreePointFit']; t: (celsius: number) => number }) {
    const { job } = useJob();
    return (
        <Box component="table" aria-label="Residual error at every temperature" sx={{ borderCollapse: 'collapse', fontFamily: mono, fontSize: '0.85rem', width: 'fit-content', '& td, & th': { textAlign: 'right', px: 1, py: 0.1 } }}>
            <thead>
                <tr>
                    <th>{shownUnit('°C', job.units)}</th>
                    <th>curve</th>
                    <th>given</th>
                    <th>error</th>
                </tr>
            </thead>
            <tbody>
                {fit.residuals.map((r) => (
                    <tr key={r.at_c}>
                        <td>{formatNumber(t(r.at_c), 0)}</td>
                        <td>{formatNumber(r.wanted, 1)}</td>
                        <td>{formatNumber(r.given, 1)}</td>
                        <td>
                            {r.error > 0 ? '+' : ''}
                            {formatNumber(r.error, 1)}
                        </td>
                    </tr>
                ))}
            </tbody>
        </Box>
    );
}
