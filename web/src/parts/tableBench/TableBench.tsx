import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useMemo, useRef, useState, type ClipboardEvent, type Dispatch, type KeyboardEvent } from 'react';

import type { Calibration, Schemas } from '../../api/client';
import { evidenceQuery, operationsQuery } from './api';
import { useJob } from '../jobContext';
import { WithMargin } from '../Margin';
import { useKeys } from '../shortcuts';
import { formatNumber, parseNumber, shownUnit, toShown, namedUnit } from '../../units/units';
import { useComputed } from '../useComputed';
import { useLatest } from '../useLatest';
import { CellNote } from './CellNote';
import { Checks, type Finding } from './Checks';
import { displayOf } from './display';
import { drafted, type Draft, type DraftAction } from './draft';
import { bounds, cellAt, gridOf, indexOf, keyOf, marksOf, nested, type Cell, type Region } from './grid';
import { layer, VIEWS, type View } from './layers';
import { LogCursor, type Place } from './LogCursor';
import { OperationBar, type Pending } from './OperationBar';
import { AMOUNT_OF, OPERATION_KEYS, type Operation } from './operations';
import { SaveStrip } from './SaveStrip';
import { SheetGrid, type Head } from './SheetGrid';
import { SliceCurve } from './Slices';
import { slicesOf } from './slicesOf';
import { Surface } from './Surface';
import { useChecks } from './useChecks';
import { useOperations } from './useOperations';

interface Props {
    /** The revision the draft rests on, and the newest one. */
    base: Calibration;
    newest: number;
    definition: Schemas['TableDefinition'];
    form: Schemas['ControllerForm'] | undefined;
    draft: Draft;
    dispatch: Dispatch<DraftAction>;
    /** The draft with everything dispatched so far, drawn or not. */
    now: () => Draft;
}

const START: Region = { from: { row: 0, column: 0 }, to: { row: 0, column: 0 } };
const EXPORTS = [
    ['csv', 'CSV'],
    ['json', 'JSON'],
    ['workbook', 'workbook'],
] as const;
const NO_SENTENCES: readonly string[] = [];
const NO_OPERATIONS: Schemas['OperationOut'][] = [];
const NOTHING: ReadonlyMap<string, number> = new Map();

/** The table bench: every table and map is looked at and worked on here. */
export function TableBench({ base, newest, definition, form, draft, dispatch, now }: Props) {
    const { job, vocabulary } = useJob();
    const table = base.tables[definition.key] as Schemas['TableOut'];
    const dimensions = table.axes.length;
    const saved = useMemo(() => gridOf(table), [table]);
    const marks = useMemo(() => marksOf(table), [table]);
    const grid = useMemo(() => drafted(saved, definition.key, draft.done), [saved, definition.key, draft.done]);
    const locked = useMemo(() => new Set(draft.locked[definition.key] ?? []), [draft.locked, definition.key]);
    const [view, setView] = useState<View>('sheet');
    const [isCanonical, setCanonical] = useState(false);
    const [region, setRegion] = useState<Region>(START);
    const [typing, setTyping] = useState<string | null>(null);
    const [pending, setPending] = useState<Pending | null>(null);
    const [said, setSaid] = useState('');
    const [refusal, setRefusal] = useState('');
    const [cursor, setCursor] = useState<Place | null>(null);
    const [jump, setJump] = useState<string | null>(null);
    const sheet = useRef<HTMLDivElement>(null);

    const operations = useQuery(operationsQuery);
    const evidence = useQuery(evidenceQuery(job.id, definition.key));
    const display = useMemo(() => displayOf(definition, form, job.units, isCanonical), [definition, form, job.units, isCanonical]);
    const heads = table.axes.map((axis): Head => {
        const unit = shownUnit(axis.unit, job.units);
        const points = axis.points.map((point) => toShown(point, axis.unit, job.units));
        const decimals = points.every((point) => Math.abs(point - Math.round(point)) < 0.05) ? 0 : unit === 'bar' ? 2 : 1;
        return { title: vocabulary.axes.find(({ name }) => name === axis.name)?.title ?? axis.name, unit, points, decimals };
    });
    const down = heads[0] ?? { title: '', unit: '', points: [], decimals: 0 };
    const across = heads[1] ?? null;
    const rows = grid.length;
    const columns = grid[0]?.length ?? 1;
    const here = region.to;
    const box = bounds(region);
    const count = (box.last_row - box.first_row + 1) * (box.last_column - box.first_column + 1);
    const value = grid[here.row]?.[here.column] ?? 0;

    const work = useOperations({
        jobId: job.id,
        revision: base.revision,
        table: definition.key,
        dimensions,
        now: () => drafted(saved, definition.key, now().done),
        locked: () => now().locked[definition.key] ?? [],
        onStep: (step) => dispatch({ type: 'step', step }),
    });
    const serverRegion = { ...box, ...(dimensions < 2 ? { first_column: 0, last_column: 0 } : {}) };
    const amountOf = (given: Pending): number | null => {
        if (given.operation === 'paste') return 0;
        const kind = AMOUNT_OF[given.operation];
        if (!kind) return 0;
        const number = parseNumber(given.amount);
        if (number === null) return null;
        if (kind === 'share') return number / 100;
        if (kind === 'percent') return number;
        return given.operation === 'add' ? number / display.factor : display.read(number);
    };
    const amount = pending ? amountOf(pending) : null;
    const ask = (given: Pending, number: number) =>
        given.operation === 'paste'
            ? work.paste(given.text ?? '', box.first_row, dimensions < 2 ? 0 : box.first_column, display.factor, display.offset)
            : work.operate(serverRegion, given.operation, number);
    const preview = useComputed(
        `bench-${job.id}-${definition.key}-${base.revision}-${draft.done.length}`,
        pending && amount !== null ? { pending, amount, box, locked: [...locked] } : null,
        (body) => ask(body.pending, body.amount),
    );
    const isAnswer = pending !== null && amount !== null && preview.data !== undefined && !preview.isPlaceholderData;
    const coming = useMemo(() => {
        if (!isAnswer || !preview.data) return NOTHING;
        return new Map(preview.data.changes.map(({ index, to }) => [keyOf(index[0] ?? 0, index[1] ?? 0), to]));
    }, [isAnswer, preview.data]);

    const draftValues = useMemo(() => nested(grid, dimensions), [grid, dimensions]);
    const { findings, flagged, accept } = useChecks(base.revision, definition.key, draftValues);

    const focusSheet = () => sheet.current?.querySelector<HTMLElement>('[role=grid]')?.focus({ preventScroll: true });
    const select = (cell: Cell, extend: boolean) => {
        const inside = { row: Math.min(rows - 1, Math.max(0, cell.row)), column: Math.min(columns - 1, Math.max(0, cell.column)) };
        setRegion((old) => (extend ? { from: old.from, to: inside } : { from: inside, to: inside }));
        setRefusal('');
    };
    const failed = (error: unknown) => setRefusal(error instanceof Error ? error.message : 'That did not work.');
    const perform = (given: Pending, number: number) => {
        setRefusal('');
        work.perform(() => ask(given, number)).then((answer) => setSaid(answer.changes.length ? `Done. ${answer.sentence}` : 'Nothing changes.'), failed);
    };
    const doPending = () => {
        if (!pending || amount === null) return;
        perform(pending, amount);
        setPending(null);
        focusSheet();
    };
    const begin = (operation: Operation) => {
        setSaid('');
        setPending({ operation, amount: operation === 'smooth' ? '50' : '' });
    };
    const nudgePercent = (percent: number) => perform({ operation: 'percent', amount: String(percent) }, percent);
    const nudgeStep = (direction: number) => perform({ operation: 'add', amount: '' }, (direction * display.step) / display.factor);
    const commit = (text: string, move: 'down' | 'right' | 'left' | 'stay') => {
        const number = parseNumber(text);
        const { lower, upper, title } = definition;
        if (number === null) {
            setRefusal(`“${text}” is not a number.`);
            if (move === 'stay') setTyping(null);
            return;
        }
        const canonical = Number(display.read(number).toPrecision(9));
        if (canonical < lower || canonical > upper) {
            setRefusal(`${title} must be between ${formatNumber(display.show(lower), display.decimals)} and ${formatNumber(display.show(upper), display.decimals)} ${display.unit}, not ${text}.`);
            if (move === 'stay') setTyping(null);
            return;
        }
        setTyping(null);
        setRefusal('');
        if (locked.has(keyOf(here.row, here.column))) setRefusal('This cell is locked; l unlocks it.');
        else dispatch({ type: 'step', step: { table: definition.key, said: 'Typed', changes: [{ ...here, from: drafted(saved, definition.key, now().done)[here.row]?.[here.column] ?? value, to: canonical }] } });
        const by = { down: [1, 0], right: [0, 1], left: [0, -1], stay: [0, 0] }[move] as [number, number];
        if (move !== 'stay') select({ row: here.row + by[0], column: here.column + by[1] }, false);
        focusSheet();
    };
    const toggleLock = () => {
        const cells: string[] = [];
        for (let row = box.first_row; row <= box.last_row; row += 1)
            for (let column = box.first_column; column <= box.last_column; column += 1) cells.push(keyOf(row, column));
        dispatch({ type: 'lock', table: definition.key, cells, on: !cells.every((cell) => locked.has(cell)) });
    };
    const jumpTo = (text: string) => {
        const number = parseNumber(text);
        setJump(null);
        focusSheet();
        if (number === null) return setRefusal(`“${text}” is not a number.`);
        let best: Cell = here;
        let off = Infinity;
        grid.forEach((line, row) =>
            line.forEach((cell, column) => {
                const distance = Math.abs(display.show(cell) - number);
                if (distance < off) [best, off] = [{ row, column }, distance];
            }),
        );
        select(best, false);
        setSaid(`The nearest to ${text} ${display.unit} is ${formatNumber(display.show(grid[best.row]?.[best.column] ?? 0), display.decimals)}.`);
    };
    const onKey = (event: KeyboardEvent) => {
        if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
            event.preventDefault();
            dispatch({ type: event.shiftKey ? 'redo' : 'undo' });
            return;
        }
        if (event.ctrlKey || event.metaKey || event.altKey || typing !== null) return;
        const moves: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1], PageUp: [-8, 0], PageDown: [8, 0], Home: [0, -columns], End: [0, columns] };
        const move = moves[event.key];
        const byKey = Object.fromEntries(Object.entries(OPERATION_KEYS).map(([operation, key]) => [key, operation as Operation]));
        const others: Record<string, () => void> = {
            Enter: () => (pending ? doPending() : setTyping(formatNumber(display.show(value), display.decimals))),
            Escape: () => (pending ? setPending(null) : select(here, false)),
            '*': () => setRegion({ from: { row: 0, column: 0 }, to: { row: rows - 1, column: columns - 1 } }),
            ']': () => nudgePercent(5),
            '[': () => nudgePercent(-5),
            '}': () => nudgePercent(10),
            '{': () => nudgePercent(-10),
            '+': () => nudgeStep(1),
            '-': () => nudgeStep(-1),
            l: toggleLock,
            j: () => setJump(''),
            u: () => dispatch({ type: 'undo' }),
            U: () => dispatch({ type: 'redo' }),
        };
        const operation = byKey[event.key];
        const handler = move
            ? () => select({ row: here.row + move[0], column: here.column + move[1] }, event.shiftKey)
            : operation
              ? () => begin(operation)
              : (others[event.key] ?? (/^[0-9.,]$/.test(event.key) ? () => setTyping(event.key) : undefined));
        if (!handler) return;
        event.preventDefault();
        event.stopPropagation();
        handler();
    };
    useKeys({ u: () => dispatch({ type: 'undo' }), U: () => dispatch({ type: 'redo' }) });
    const onCopy = (event: ClipboardEvent) => {
        if (typing !== null) return;
        const lines: string[] = [];
        for (let row = box.first_row; row <= box.last_row; row += 1)
            lines.push((grid[row] ?? []).slice(box.first_column, box.last_column + 1).map((cell) => String(Number(display.show(cell).toFixed(display.decimals)))).join('\t'));
        event.clipboardData.setData('text/plain', lines.join('\n'));
        event.preventDefault();
        setSaid(`${count} ${count === 1 ? 'cell' : 'cells'} copied in ${display.unit || 'plain numbers'}.`);
    };
    const onPaste = (event: ClipboardEvent) => {
        if (typing !== null) return;
        event.preventDefault();
        setSaid('');
        setPending({ operation: 'paste', amount: '', text: event.clipboardData.getData('text').slice(0, 450_000) });
    };

    // The margin and the strips may follow a moment later; the sheet may not.
    const calmDraft = useDeferredValue(draft);
    const calmGrid = useDeferredValue(grid);
    const calmHere = useDeferredValue(here);
    const place = indexOf(calmHere, dimensions)
        .map((at, i) => `${formatNumber(heads[i]?.points[at] ?? 0, heads[i]?.decimals ?? 0)} ${heads[i]?.unit ?? ''}`)
        .join(', ');
    const index = useMemo(() => indexOf({ row: calmHere.row, column: calmHere.column }, dimensions), [calmHere.row, calmHere.column, dimensions]);
    const at = useMemo(() => index.map((i, axis) => table.axes[axis]?.points[i] ?? 0), [index, table.axes]);
    const hits = useMemo(() => (evidence.data ? gridOf({ values: evidence.data.hits }) : null), [evidence.data]);
    const sentence = pending
        ? amount === null
            ? 'Type how much; Enter does it, Escape leaves it.'
            : isAnswer
              ? (preview.data?.sentence ?? '')
              : 'Working it out …'
        : said || `${definition.meaning}`;
    const previewError = pending && preview.error ? preview.error.message : '';
    const problem = refusal || previewError;
    const shownLayer = useMemo(() => layer(view, { grid, saved, marks, hits, show: display.show, decimals: display.decimals }), [view, grid, saved, marks, hits, display]);
    const showFinding = useLatest((finding: Finding) => {
        setRegion({ from: cellAt(finding.cells.at(-1) ?? [0, 0]), to: cellAt(finding.cells[0] ?? [0, 0]) });
        if (view === 'surface') setView('sheet');
    });
    const acceptFinding = useLatest((finding: Finding, reason: string) => accept.mutate({ finding, reason }));
    const doLatest = useLatest(doPending);
    const focusLatest = useLatest(focusSheet);
    const nudgeLatest = useLatest((percent: number) => {
        nudgePercent(percent);
        focusSheet();
    });
    const slices = slicesOf(grid, saved, here, down, across, display.show, cursor);
    const sheetProps = {
        label: definition.title,
        down,
        across,
        grid,
        saved,
        coming,
        locked,
        flagged,
        show: display.show,
        decimals: display.decimals,
        region,
        typing,
        cursor,
        onSelect: select,
        onTyping: (text: string | null) => {
            setTyping(text);
            if (text === null) focusSheet();
        },
        onCommit: commit,
        onKey,
        onCopy,
        onPaste,
    };
    const moveSlice = (slice: 'down' | 'across') => (point: number, shown: number) => {
        const cell = slice === 'down' ? { row: point, column: here.column } : { row: here.row, column: point };
        if (locked.has(keyOf(cell.row, cell.column))) return setRefusal('This cell is locked; l unlocks it.');
        const only = { first_row: cell.row, last_row: cell.row, first_column: cell.column, last_column: cell.column };
        work.perform(() => work.operate(only, 'set', display.read(shown))).catch(failed);
    };
    const offered = (Object.keys(VIEWS) as View[]).filter((key) => across !== null || (key !== 'surface' && key !== 'slices'));
    return (
        <WithMargin
            margin={
                <Stack spacing={2}>
                    <Checks
                        findings={findings}
                        pending={accept.isPending}
                        error={accept.error}
                        onShow={showFinding}
                        onAccept={acceptFinding}
                    />
                    <CellNote
                        definition={definition}
                        display={display}
                        place={place}
                        index={index}
                        at={at}
                        value={calmGrid[calmHere.row]?.[calmHere.column] ?? 0}
                        saved={saved[calmHere.row]?.[calmHere.column] ?? 0}
                        mark={marks[calmHere.row]?.[calmHere.column]}
                        hits={hits?.[calmHere.row]?.[calmHere.column]}
                    />
                </Stack>
            }
        >
            <Stack direction="row" sx={{ alignItems: 'center', gap: 1, mb: 1, flexWrap: 'wrap' }}>
                <Typography variant="h1" sx={{ flex: '1 1 auto', fontSize: '1.25rem' }}>
                    {definition.title}
                    <Box component="span" sx={{ fontWeight: 400, color: 'text.secondary', ml: 1, fontSize: '1rem' }}>
                        {display.unit}
                        {form?.known && `, controller’s step ${formatNumber(form.step, Math.max(0, Math.ceil(-Math.log10(form.step) - 1e-9)))} ${namedUnit(form.unit)}`}
                    </Box>
                </Typography>
                {form?.known && (form.factor !== 1 || form.offset !== 0) && (
                    <ToggleButtonGroup size="small" exclusive value={isCanonical} onChange={(_, next: boolean | null) => next !== null && setCanonical(next)}>
                        <ToggleButton value={false}>{form.unit}</ToggleButton>
                        <ToggleButton value={true}>{namedUnit(definition.unit)}</ToggleButton>
                    </ToggleButtonGroup>
                )}
                <ToggleButtonGroup size="small" exclusive value={view} onChange={(_, next: View | null) => next && setView(next)} aria-label="View">
                    {offered.map((key) => (
                        <ToggleButton key={key} value={key} sx={{ py: 0.4, textTransform: 'none' }}>
                            {VIEWS[key]}
                        </ToggleButton>
                    ))}
                </ToggleButtonGroup>
            </Stack>
            <OperationBar
                operations={operations.data ?? NO_OPERATIONS}
                pending={pending}
                unit={display.unit}
                cells={count}
                sentence={sentence}
                sentences={isAnswer ? (preview.data?.sentences ?? NO_SENTENCES) : NO_SENTENCES}
                error={problem}
                count={isAnswer ? (preview.data?.changes.length ?? 0) : 0}
                onChange={setPending}
                onDo={doLatest}
                onDone={focusLatest}
                onNudge={nudgeLatest}
            />
            {jump !== null && (
                <TextField
                    label={`Go to the cell nearest to (${display.unit})`}
                    autoFocus
                    value={jump}
                    onChange={(event) => setJump(event.target.value)}
                    onKeyDown={(event) => {
                        if (event.key === 'Enter') jumpTo(jump);
                        if (event.key === 'Escape') {
                            setJump(null);
                            focusSheet();
                        }
                    }}
                    sx={{ mb: 1, width: 300 }}
                />
            )}
            <Box ref={sheet}>
                {view === 'surface' && across ? (
                    <Surface
                        label={`${definition.title} as a surface over ${down.title.toLowerCase()} and ${across.title.toLowerCase()}`}
                        down={down}
                        across={across}
                        grid={grid}
                        other={grid === saved ? undefined : saved}
                        show={display.show}
                        unit={display.unit}
                        decimals={display.decimals}
                        selected={here}
                        cursor={cursor}
                    />
                ) : (
                    <Stack direction={across && view !== 'slices' ? 'column' : { xs: 'column', lg: 'row' }} sx={{ gap: 2, alignItems: 'flex-start' }}>
                        <SheetGrid {...sheetProps} {...shownLayer} />
                        {(!across || view === 'slices') && slices.length > 0 && (
                            <Box sx={{ flex: '1 1 360px', minWidth: 280, width: '100%', maxWidth: 520, ...(across ? { display: 'grid', gridTemplateColumns: { sm: '1fr 1fr', lg: '1fr' }, gap: 1 } : {}) }}>
                                {slices.map(({ key, slice }) => (
                                    <SliceCurve
                                        key={key}
                                        slice={slice}
                                        unit={display.unit}
                                        decimals={display.decimals}
                                        lower={Math.min(display.show(definition.lower), display.show(definition.upper))}
                                        upper={Math.max(display.show(definition.lower), display.show(definition.upper))}
                                        onMove={moveSlice(key)}
                                        onSelect={(point) => select(key === 'down' ? { row: point, column: here.column } : { row: here.row, column: point }, false)}
                                        height={across ? 190 : 300}
                                        width={across ? 330 : 520}
                                    />
                                ))}
                            </Box>
                        )}
                    </Stack>
                )}
            </Box>
            {view === 'evidence' && evidence.data && (
                <Typography variant="body2" sx={{ mt: 0.5 }}>
                    {evidence.data.sentence}
                </Typography>
            )}
            <Stack direction="row" sx={{ mt: 1, gap: 1, alignItems: 'center', flexWrap: 'wrap', justifyContent: 'space-between' }}>
                <LogCursor axes={table.axes} onPlace={setCursor} />
                <Typography variant="body2" component="span">
                    This table of revision {base.revision}:{' '}
                    {EXPORTS.map(([format, word]) => (
                        <Box component="a" key={format} href={`/api/jobs/${job.id}/export?format=${format}&revision=${base.revision}&table=${definition.key}`} download sx={{ ml: 1 }}>
                            {word}
                        </Box>
                    ))}
                </Typography>
            </Stack>
            <SaveStrip base={base} newest={newest} definitions={vocabulary.tables} draft={calmDraft} dispatch={dispatch} />
        </WithMargin>
    );
}
