import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useEffect, useRef, useState, type KeyboardEvent, type RefObject } from 'react';

import type { Calibration, Schemas, TrialRow } from '../../api/client';
import type { Believed, Estimate } from '../../api/ladder';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { decimalsOf, formatNumber, shownUnit, toShown } from '../../units/units';
import type { ProvenanceKind } from '../../parts/provenance';
import { ProvenanceMark } from '../../parts/ProvenanceMark';
import { typedValue } from '../../parts/draft/typed';
import { cellKey, curveValues, type CellAt } from './edits';
import { Thermometer } from './Thermometer';

type Definition = Schemas['TableDefinition'];

const ROW = 40;
const same = (value: number) => value;

interface Props {
    calibration: Calibration;
    definitions: Definition[];
    trials: TrialRow[];
    estimate: Estimate | undefined;
    edited: Record<string, number>;
    selected: CellAt;
    onSelect: (cell: CellAt) => void;
    onEdit: (cell: CellAt, from: number, to: number) => void;
}

/** The upright ladder: cold at the bottom, one rung per breakpoint, columns in phase order. */
export function LadderGrid({ calibration, definitions, trials, estimate, edited, selected, onSelect, onEdit }: Props) {
    const { job } = useJob();
    const points = calibration.tables.cranking_fuel?.axes[0]?.points ?? [];
    const rungs = points.map((_, index) => points.length - 1 - index);
    const grid = useRef<HTMLTableElement>(null);
    const hand = useHand(grid, { calibration, definitions, edited, selected, onSelect, onEdit, count: points.length });

    return (
        <Box sx={{ overflowX: 'auto', bgcolor: 'background.paper', border: 1, borderColor: 'divider' }}>
            <Box
                component="table"
                ref={grid}
                role="grid"
                aria-label="Start tables over coolant temperature"
                sx={{ borderCollapse: 'collapse', width: '100%', tableLayout: 'fixed', minWidth: 760 }}
            >
                <colgroup>
                    <col style={{ width: 128 }} />
                </colgroup>
                <Heads definitions={definitions} />
                <tbody>
                    {rungs.map((index, row) => (
                        <tr key={index}>
                            <Box
                                component="th"
                                scope="row"
                                sx={{ position: 'relative', height: ROW, p: 0, borderTop: 1, borderColor: 'divider' }}
                            >
                                <Box sx={{ fontFamily: mono, textAlign: 'left', pl: 1.25, fontWeight: 600 }}>
                                    {formatNumber(toShown(points[index] ?? 0, '°C', job.units), 0)}
                                </Box>
                                <RungChance chance={trials.length > 0 ? estimate?.good_start[index] : undefined} />
                                {row === 0 && <Thermometer points={points} trials={trials} rowHeight={ROW} />}
                            </Box>
                            {definitions.map((table) => (
                                <HandledCell
                                    key={table.key}
                                    cell={{ table: table.key, index }}
                                    definition={table}
                                    calibration={calibration}
                                    edited={edited}
                                    selected={selected}
                                    curve={estimate?.tables[table.key]}
                                    hand={hand}
                                />
                            ))}
                        </tr>
                    ))}
                </tbody>
            </Box>
            <Typography role="status" variant="body2" color="error" sx={{ px: 1, minHeight: hand.refusal ? 28 : 0, py: hand.refusal ? 0.5 : 0 }}>
                {hand.refusal}
            </Typography>
        </Box>
    );
}

type Hand = ReturnType<typeof useHand>;

/** Selecting, typing and nudging on the ladder, by keyboard or pointer. */
function useHand(
    grid: RefObject<HTMLTableElement | null>,
    { calibration, definitions, edited, selected, onSelect, onEdit, count }: Omit<Props, 'trials' | 'estimate'> & { count: number },
) {
    const [typing, setTyping] = useState<string | null>(null);
    const [refusal, setRefusal] = useState('');
    const moved = useRef(false);

    const focusCell = (cell: CellAt) => {
        onSelect(cell);
        moved.current = true;
    };
    useEffect(() => {
        if (!moved.current) return;
        moved.current = false;
        grid.current?.querySelector<HTMLElement>(`[data-cell="${cellKey(selected)}"]`)?.focus();
    }, [grid, selected, typing]);

    const definitionOf = (cell: CellAt) => definitions.find((entry) => entry.key === cell.table) as Definition;
    const saved = (cell: CellAt) => curveValues(calibration, cell.table)[cell.index] ?? 0;
    const current = (cell: CellAt) => edited[cellKey(cell)] ?? saved(cell);

    const step = (column: number, row: number) => {
        const at = definitions.findIndex((entry) => entry.key === selected.table);
        const next = definitions[Math.min(definitions.length - 1, Math.max(0, at + column))] as Definition;
        focusCell({
            table: next.key,
            index: Math.min(count - 1, Math.max(0, selected.index + row)),
        });
    };
    /** Take a typed value if it is a number within the bounds that the server states. */
    const commit = (text: string): boolean => {
        const { unit, resolution } = definitionOf(selected);
        const typed = typedValue(text, definitionOf(selected), { unit, decimals: decimalsOf(resolution), show: same, read: same });
        if ('refusal' in typed) {
            setRefusal(typed.refusal);
            return false;
        }
        setRefusal('');
        onEdit(selected, current(selected), typed.value);
        return true;
    };
    const nudge = (direction: number) => {
        const { lower, upper, resolution } = definitionOf(selected);
        const size = Math.max(resolution, 10 ** Math.floor(Math.log10(Math.max(Math.abs(current(selected)), 1)) - 1));
        const value = Math.min(upper, Math.max(lower, current(selected) + direction * size));
        onEdit(selected, current(selected), Number(value.toFixed(4)));
    };
    const onCellKey = (event: KeyboardEvent) => {
        if (event.ctrlKey || event.metaKey || event.altKey) return;
        const act: Record<string, () => void> = {
            ArrowLeft: () => step(-1, 0),
            ArrowRight: () => step(1, 0),
            ArrowUp: () => step(0, 1),
            ArrowDown: () => step(0, -1),
            Enter: () => setTyping(formatNumber(current(selected), decimalsOf(definitionOf(selected).resolution))),
            '+': () => nudge(1),
            '-': () => nudge(-1),
        };
        const handler = act[event.key] ?? (/^[0-9.,]$/.test(event.key) ? () => setTyping(event.key) : undefined);
        if (!handler) return;
        event.preventDefault();
        event.stopPropagation();
        handler();
    };
    const onInputKey = (event: KeyboardEvent) => {
        event.stopPropagation();
        if (event.key === 'Escape') {
            setTyping(null);
            setRefusal('');
            moved.current = true;
        } else if (event.key === 'Enter' || event.key === 'Tab') {
            event.preventDefault();
            if (!commit(typing ?? '')) return;
            setTyping(null);
            if (event.key === 'Tab') step(event.shiftKey ? -1 : 1, 0);
            else step(0, -1);
        }
    };
    const open = (cell: CellAt) => setTyping(formatNumber(current(cell), decimalsOf(definitionOf(cell).resolution)));
    const leave = () => {
        if (typing !== null && commit(typing)) setTyping(null);
    };
    return { typing, setTyping, refusal, focusCell, current, saved, onCellKey, onInputKey, open, leave };
}

function Heads({ definitions }: { definitions: Definition[] }) {
    const { job } = useJob();
    return (
        <thead>
            <tr>
                <Box component="th" scope="col" sx={headStyle}>
                    Coolant
                    <Unit>{shownUnit('°C', job.units)}</Unit>
                </Box>
                {definitions.map((table) => (
                    <Box component="th" scope="col" key={table.key} sx={headStyle} title={table.meaning}>
                        {table.short}
                        <Unit>{table.unit}</Unit>
                    </Box>
                ))}
            </tr>
        </thead>
    );
}

interface HandledProps {
    cell: CellAt;
    definition: Definition;
    calibration: Calibration;
    edited: Record<string, number>;
    selected: CellAt;
    curve: Believed | undefined;
    hand: Hand;
}

function HandledCell({ cell, definition, calibration, edited, selected, curve, hand }: HandledProps) {
    const here = selected.table === cell.table && selected.index === cell.index;
    return (
        <Cell
            cell={cell}
            definition={definition}
            values={curveValues(calibration, cell.table)}
            kind={provenanceAt(calibration, cell)}
            value={hand.current(cell)}
            band={bandOf(curve, cell.index)}
            before={edited[cellKey(cell)] === undefined ? null : hand.saved(cell)}
            selected={here}
            typing={here ? hand.typing : null}
            onTyping={hand.setTyping}
            onSelect={() => hand.focusCell(cell)}
            onStart={() => hand.open(cell)}
            onKey={hand.onCellKey}
            onInputKey={hand.onInputKey}
            onLeave={hand.leave}
        />
    );
}

/** The band of a cell that trials have taught of; none while only the engine data speak. */
function bandOf(curve: Believed | undefined, index: number): [number, number] | null {
    if (!curve?.taught[index]) return null;
    return [curve.low[index] ?? 0, curve.high[index] ?? 0];
}

/** Where the need lies with nine of ten; marked where the value in force lies outside. */
function Band({ band, value }: { band: [number, number]; value: number }) {
    const outside = value < band[0] || value > band[1];
    return (
        <Box
            component="span"
            title={`nine of ten between ${formatNumber(band[0], 0)} and ${formatNumber(band[1], 0)}`}
            sx={{ display: 'block', fontFamily: mono, fontSize: '0.7rem', color: 'text.primary', fontWeight: outside ? 700 : 400, textDecoration: outside ? 'underline' : 'none' }}
        >
            {formatNumber(band[0], 0)}–{formatNumber(band[1], 0)}
        </Box>
    );
}

const COVERAGE = { proven: 'proven', likely: 'likely', open: 'open', extrapolated: 'not tried near here' } as const;

/** The chance of a good start at a rung, with the tables in force. */
function RungChance({ chance }: { chance: Estimate['good_start'][number] | undefined }) {
    if (!chance) return null;
    const percent = (share: number) => `${Math.round(100 * share)} %`;
    const { causes, state } = chance;
    const parts = `runs ${percent(causes.runs)}, lives ${percent(causes.lives)}, flare ${percent(causes.flare)}, mixture ${percent(causes.mixture)}, idle ${percent(causes.idle)}`;
    return (
        <Box
            title={`Good start ${percent(chance.probability)} (${COVERAGE[state]}): ${parts}`}
            sx={{
                fontFamily: mono,
                fontSize: '0.72rem',
                textAlign: 'left',
                pl: 1.25,
                fontWeight: state === 'proven' ? 700 : 400,
                fontStyle: state === 'extrapolated' ? 'italic' : 'normal',
                color: state === 'open' ? 'text.primary' : 'text.secondary',
            }}
        >
            {percent(chance.probability)}
        </Box>
    );
}

const headStyle = {
    fontSize: '0.86rem',
    fontWeight: 650,
    textAlign: 'right',
    px: 1,
    py: 0.5,
    lineHeight: 1.2,
    verticalAlign: 'bottom',
    '&:first-of-type': { textAlign: 'left' },
} as const;

function Unit({ children }: { children: string }) {
    return (
        <Box component="span" sx={{ display: 'block', fontWeight: 400, color: 'text.secondary' }}>
            {children}
        </Box>
    );
}

function provenanceAt(calibration: Calibration, cell: CellAt): ProvenanceKind {
    const marks = calibration.tables[cell.table]?.provenance as Schemas['Provenance'][] | undefined;
    return marks?.[cell.index]?.kind ?? 'assumed';
}

interface CellProps {
    cell: CellAt;
    definition: Definition;
    values: number[];
    kind: ProvenanceKind;
    value: number;
    before: number | null;
    band: [number, number] | null;
    selected: boolean;
    typing: string | null;
    onTyping: (text: string) => void;
    onSelect: () => void;
    onStart: () => void;
    onKey: (event: KeyboardEvent) => void;
    onInputKey: (event: KeyboardEvent) => void;
    onLeave: () => void;
}

/** One cell: mark of origin, value, and ink as dense as the value is high in its column. */
function Cell(props: CellProps) {
    const { cell, definition, values, kind, value, before, band, selected, typing } = props;
    const low = Math.min(...values);
    const span = Math.max(...values) - low || 1;
    const density = Math.round(2 + 20 * Math.min(1, Math.max(0, (value - low) / span)));
    const decimals = decimalsOf(definition.resolution);
    return (
        <Box
            component="td"
            role="gridcell"
            data-cell={cellKey(cell)}
            tabIndex={selected && typing === null ? 0 : -1}
            aria-selected={selected}
            onClick={() => {
                if (!selected) props.onSelect();
                else if (typing === null) props.onStart();
            }}
            onKeyDown={typing === null ? props.onKey : undefined}
            sx={{
                position: 'relative',
                p: 0,
                height: ROW,
                borderTop: 1,
                borderLeft: 1,
                borderColor: 'divider',
                cursor: 'cell',
                bgcolor: (theme) => `color-mix(in srgb, ${theme.vars?.palette.ink.main} ${density}%, transparent)`,
                boxShadow: (theme) =>
                    before !== null
                        ? `inset 4px 0 0 ${value > before ? theme.vars?.palette.primary.main : theme.vars?.palette.warning.main}`
                        : 'none',
                outline: selected ? '2px solid' : 'none',
                outlineColor: 'primary.main',
                outlineOffset: '-2px',
                '&:focus-visible': { outline: '3px solid', outlineColor: 'primary.main', outlineOffset: '-3px' },
            }}
        >
            {typing !== null ? (
                <Box
                    component="input"
                    aria-label={`${definition.title}, new value in ${definition.unit}`}
                    autoFocus
                    inputMode="decimal"
                    value={typing}
                    onFocus={(event: React.FocusEvent<HTMLInputElement>) => {
                        if (typing.length > 1) event.target.select();
                    }}
                    onChange={(event: React.ChangeEvent<HTMLInputElement>) => props.onTyping(event.target.value)}
                    onKeyDown={props.onInputKey}
                    onBlur={props.onLeave}
                    sx={{
                        width: '100%',
                        height: ROW - 2,
                        border: 0,
                        px: 1,
                        textAlign: 'right',
                        font: `600 1rem ${mono}`,
                        bgcolor: 'background.paper',
                        color: 'text.primary',
                    }}
                />
            ) : (
                <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'flex-end', gap: 0.75, px: 1 }}>
                    <ProvenanceMark kind={kind} />
                    <Box sx={{ flex: 1, textAlign: 'right', lineHeight: 1.1 }}>
                        {before !== null && (
                            <Box
                                component="s"
                                sx={{ display: 'block', fontFamily: mono, fontSize: '0.74rem', color: 'text.secondary' }}
                            >
                                {formatNumber(before, decimals)}
                            </Box>
                        )}
                        <Box component="span" sx={{ fontFamily: mono, fontWeight: before !== null ? 700 : 500 }}>
                            {formatNumber(value, decimals)}
                        </Box>
                        {before === null && band && <Band band={band} value={value} />}
                    </Box>
                </Box>
            )}
        </Box>
    );
}
