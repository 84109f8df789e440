import Box from '@mui/material/Box';
import { memo, useEffect, useId, useMemo, useRef, type ClipboardEvent, type KeyboardEvent, type MouseEvent, type PointerEvent, type ReactNode, type RefObject } from 'react';

import { mono } from '../theme';
import { formatNumber } from '../../units/units';
import { useLatest } from '../useLatest';
import { bounds, keyOf, spanOf, type Cell, type Grid, type Region } from '../draft/grid';

export interface Head {
    title: string;
    unit: string;
    points: readonly number[];
    decimals: number;
}

interface Props {
    label: string;
    down: Head;
    across: Head | null;
    grid: Grid;
    saved: Grid;
    /** Values the table would have if what stands in the operation bar were done. */
    coming: ReadonlyMap<string, number>;
    locked: ReadonlySet<string>;
    flagged: ReadonlyMap<string, 'stop' | 'attention' | 'note'>;
    show: (value: number) => number;
    decimals: number;
    region: Region;
    typing: string | null;
    /** What stands in a cell instead of the plain value; null keeps the value. */
    content?: ((row: number, column: number) => ReactNode) | undefined;
    /** Ink behind a cell, 0 to 1; negative is the other direction of change. */
    ink?: ((row: number, column: number) => number) | undefined;
    /** Where a log is, in rows and columns. */
    cursor: { row: number; column: number } | null;
    onSelect: (cell: Cell, extend: boolean) => void;
    onTyping: (text: string | null) => void;
    onCommit: (text: string, move: 'down' | 'right' | 'left' | 'stay') => void;
    onKey: (event: KeyboardEvent) => void;
    onCopy: (event: ClipboardEvent) => void;
    onPaste: (event: ClipboardEvent) => void;
}

export const CELL_WIDTH = 62;
export const CELL_HEIGHT = 27;
const HEAD_WIDTH = 78;

const FRAME = {
    position: 'relative',
    overflow: 'auto',
    maxHeight: 470,
    bgcolor: 'background.paper',
    border: 1,
    borderColor: 'divider',
    width: 'fit-content',
    maxWidth: '100%',
    userSelect: 'none',
    touchAction: 'pan-x pan-y',
    scrollPaddingLeft: HEAD_WIDTH,
    scrollPaddingTop: CELL_HEIGHT,
    '&:focus-within': { outline: '2px solid', outlineColor: 'primary.main' },

} as const;

const SHEET = {
    borderCollapse: 'separate',
    borderSpacing: 0,
    tableLayout: 'fixed',
    '&:focus': { outline: 'none' },
    fontFamily: mono,
    fontSize: '0.9rem',
    '& th': {
        fontWeight: 600,
        color: 'text.secondary',
        bgcolor: 'background.paper',
        height: CELL_HEIGHT,
        p: 0,
        pr: 0.75,
        textAlign: 'right',
        whiteSpace: 'nowrap',
    },
    '& thead th': { position: 'sticky', top: 0, zIndex: 2, borderBottom: 1, borderColor: 'divider' },
    '& tbody th': { position: 'sticky', left: 0, zIndex: 1, borderRight: 1, borderColor: 'divider' },
    '& thead th:first-of-type': { left: 0, zIndex: 3, borderRight: 1, borderColor: 'divider', lineHeight: 1.05, fontSize: '0.74rem' },
    '& td': {
        height: CELL_HEIGHT,
        p: 0,
        pr: 0.75,
        textAlign: 'right',
        position: 'relative',
        whiteSpace: 'nowrap',
        borderBottom: '1px solid transparent',
        borderRight: '1px solid transparent',
    },
    '& td.chosen': { boxShadow: 'inset 0 0 0 1px var(--mui-palette-primary-main)' },
    '& td.here': { boxShadow: 'inset 0 0 0 2.5px var(--mui-palette-primary-main)' },
    '& td.changed': { fontWeight: 750, color: 'var(--mui-palette-primary-main)' },
    '& td.coming': { fontWeight: 750, color: 'var(--mui-palette-warning-main)' },
    '& td.locked::before': { content: '""', position: 'absolute', left: 3, top: 3, width: 6, height: 6, border: '1.5px solid', borderColor: 'text.secondary', borderRadius: '1px' },
    '& td.attention::after, & td.stop::after, & td.note::after': { content: '""', position: 'absolute', right: 0, top: 0, borderStyle: 'solid', borderWidth: '0 8px 8px 0', borderColor: 'transparent var(--mui-palette-warning-main) transparent transparent' },
    '& td.stop::after': { borderWidth: '0 11px 11px 0', borderColor: 'transparent var(--mui-palette-error-main) transparent transparent' },
    '& td.note::after': { borderColor: 'transparent var(--mui-palette-ink-faint) transparent transparent' },

} as const;

/** The sheet: one-hue ink behind the values, heads that stay in sight, a region by keyboard or pointer. */
export function SheetGrid(props: Props) {
    const { label, down, across, grid, region, typing, onTyping, onKey, onCopy, onPaste } = props;
    const box = useRef<HTMLDivElement>(null);
    const name = useId();
    const [low, high] = useMemo(() => spanOf(props.saved), [props.saved]);
    const at = region.to;
    // Rows are drawn anew only when their own values change, so what they call must not.
    const typeLatest = useLatest(onTyping);
    const commitLatest = useLatest(props.onCommit);
    useSight(box, at, across !== null);
    useEffect(() => {
        if (typing === null && document.activeElement === document.body) box.current?.querySelector<HTMLElement>('[role=grid]')?.focus({ preventScroll: true });
    }, [typing]);

    const pointer = usePointer(box, props);
    const columns = grid[0]?.length ?? 0;
    return (
        <Box
            ref={box}
            sx={FRAME}
        >
            <Box
                component="table"
                role="grid"
                aria-label={label}
                aria-multiselectable
                aria-activedescendant={`${name}${keyOf(at.row, at.column)}`}
                tabIndex={0}
                {...pointer}
                onKeyDown={onKey}
                onCopy={onCopy}
                onPaste={onPaste}
                sx={{ ...SHEET, width: HEAD_WIDTH + Math.max(columns * CELL_WIDTH, 96) }}
            >
                <Heads down={down} across={across} columns={columns} />
                <tbody>
                    {grid.map((line, row) => (
                        <Line
                            key={row}
                            row={row}
                            name={name}
                            head={down.points[row] === undefined ? '' : formatNumber(down.points[row], down.decimals)}
                            line={line}
                            saved={props.saved[row] ?? line}
                            low={low}
                            span={high - low || 1}
                            chosen={rowPart(region, row)}
                            here={at.row === row ? at.column : -1}
                            typing={at.row === row ? typing : null}
                            coming={props.coming}
                            locked={props.locked}
                            flagged={props.flagged}
                            show={props.show}
                            decimals={props.decimals}
                            content={props.content}
                            ink={props.ink}
                            onTyping={typeLatest}
                            onCommit={commitLatest}
                        />
                    ))}
                </tbody>
            </Box>
            {props.cursor && <CursorMark at={props.cursor} width={across ? CELL_WIDTH : 96} />}
        </Box>
    );
}

/** Bring the cell in hand into sight where it is not; reckoned, because asking would lay the whole sheet out anew. */
function useSight(box: RefObject<HTMLDivElement | null>, at: Cell, isMap: boolean): void {
    const sight = useRef({ left: 0, top: 0, width: 0, height: 0 });
    useEffect(() => {
        const sheet = box.current;
        if (!sheet) return;
        const look = () => {
            sight.current = { left: sheet.scrollLeft, top: sheet.scrollTop, width: sheet.clientWidth, height: sheet.clientHeight };
        };
        const observer = new ResizeObserver(look);
        observer.observe(sheet);
        sheet.addEventListener('scroll', look, { passive: true });
        return () => {
            observer.disconnect();
            sheet.removeEventListener('scroll', look);
        };
    }, [box]);
    useEffect(() => {
        const { left, top, width, height } = sight.current;
        const x = (at.column + 1) * (isMap ? CELL_WIDTH : 96);
        const y = (at.row + 1) * (CELL_HEIGHT + 1);
        const isSeen = x <= left + width - HEAD_WIDTH && x - CELL_WIDTH >= left && y <= top + height - CELL_HEIGHT && y - CELL_HEIGHT - 1 >= top;
        if (isSeen) return;
        const cell = box.current?.querySelector<HTMLElement>(`[data-cell="${keyOf(at.row, at.column)}"]`);
        cell?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    }, [box, at.row, at.column, isMap]);
}

function cellOf(target: EventTarget): Cell | null {
    const text = (target as HTMLElement).closest<HTMLElement>('[data-cell]')?.dataset.cell;
    if (!text) return null;
    const [row, column] = text.split('.').map(Number);
    return { row: row ?? 0, column: column ?? 0 };
}

type Pointed = Pick<Props, 'grid' | 'typing' | 'show' | 'decimals' | 'onSelect' | 'onTyping' | 'onCommit'>;

/** What mouse and finger do on the sheet: choose, draw a region, open a cell. */
function usePointer(box: RefObject<HTMLDivElement | null>, { grid, typing, show, decimals, onSelect, onTyping, onCommit }: Pointed) {
    const dragging = useRef(false);
    return {
        onPointerDown: (event: PointerEvent) => {
            const cell = cellOf(event.target);
            if (!cell || (event.target as HTMLElement).tagName === 'INPUT') return;
            if (typing !== null) onCommit(typing, 'stay');
            dragging.current = event.pointerType === 'mouse';
            onSelect(cell, event.shiftKey);
            box.current?.querySelector<HTMLElement>('[role=grid]')?.focus({ preventScroll: true });
        },
        onPointerOver: (event: PointerEvent) => {
            if (!dragging.current || event.buttons === 0) return;
            const cell = cellOf(event.target);
            if (cell) onSelect(cell, true);
        },
        onPointerUp: () => {
            dragging.current = false;
        },
        onDoubleClick: (event: MouseEvent) => {
            const cell = cellOf(event.target);
            if (cell && typing === null) onTyping(formatNumber(show(grid[cell.row]?.[cell.column] ?? 0), decimals));
        },
    };
}

function Heads({ down, across, columns }: { down: Head; across: Head | null; columns: number }) {
    return (
        <>
            <colgroup>
                <col style={{ width: HEAD_WIDTH }} />
                {Array.from({ length: columns }, (_, i) => (
                    <col key={i} style={{ width: across ? CELL_WIDTH : 96 }} />
                ))}
            </colgroup>
            <thead>
                <tr>
                    <th scope="col">
                        {down.unit || down.title}
                        {across && (
                            <>
                                <br />
                                {across.unit === '%' ? `${across.title.split(' ')[0] ?? ''} %` : across.unit} →
                            </>
                        )}
                    </th>
                    {across ? (
                        across.points.map((point) => (
                            <th key={point} scope="col">
                                {formatNumber(point, across.decimals)}
                            </th>
                        ))
                    ) : (
                        <th scope="col">value</th>
                    )}
                </tr>
            </thead>
        </>
    );
}

/** Where a log is. */
function CursorMark({ at, width }: { at: { row: number; column: number }; width: number }) {
    return (
        <Box
            aria-hidden
            data-cursor
            sx={{
                position: 'absolute',
                left: HEAD_WIDTH + (at.column + 0.5) * width - 11,
                top: CELL_HEIGHT + (at.row + 0.5) * (CELL_HEIGHT + 1) - 10,
                width: 22,
                height: 22,
                borderRadius: '50%',
                border: '3px solid',
                borderColor: 'warning.main',
                pointerEvents: 'none',
                zIndex: 1,
            }}
        />
    );
}

/** The part of a row that is chosen, as text, so that other rows need not be drawn anew. */
function rowPart(region: Region, row: number): string {
    const box = bounds(region);
    return row < box.first_row || row > box.last_row ? '' : `${box.first_column}-${box.last_column}`;
}

interface LineProps {
    row: number;
    /** Of the sheet, before the place of a cell: two sheets may stand on a page. */
    name: string;
    head: string;
    line: readonly number[];
    saved: readonly number[];
    low: number;
    span: number;
    chosen: string;
    here: number;
    typing: string | null;
    coming: ReadonlyMap<string, number>;
    locked: ReadonlySet<string>;
    flagged: ReadonlyMap<string, 'stop' | 'attention' | 'note'>;
    show: (value: number) => number;
    decimals: number;
    content?: ((row: number, column: number) => ReactNode) | undefined;
    ink?: ((row: number, column: number) => number) | undefined;
    onTyping: (text: string | null) => void;
    onCommit: (text: string, move: 'down' | 'right' | 'left' | 'stay') => void;
}

/** One row: drawn anew only when something in it changes. */
const Line = memo(function Line(props: LineProps) {
    const { row, line, saved, low, span, chosen, here, typing, coming, show, decimals } = props;
    const [first, last] = chosen ? chosen.split('-').map(Number) : [1, 0];
    return (
        <tr>
            <th scope="row">{props.head}</th>
            {line.map((value, column) => {
                const key = keyOf(row, column);
                const next = coming.get(key);
                const shown = next ?? value;
                const classes = [
                    column >= (first ?? 1) && column <= (last ?? 0) ? 'chosen' : '',
                    here === column ? 'here' : '',
                    next !== undefined ? 'coming' : value !== saved[column] ? 'changed' : '',
                    props.locked.has(key) ? 'locked' : '',
                    props.flagged.get(key) ?? '',
                ];
                const strength = props.ink ? props.ink(row, column) : Math.min(1, Math.max(0, (shown - low) / span));
                const colour = strength < 0 ? 'warning' : props.ink ? 'primary' : 'ink';
                const density = props.ink ? Math.round(44 * Math.abs(strength)) : Math.round(3 + 27 * strength);
                return (
                    <td
                        key={column}
                        id={`${props.name}${key}`}
                        data-cell={key}
                        role="gridcell"
                        aria-selected={classes[0] === 'chosen'}
                        className={classes.join(' ')}
                        style={{ background: `color-mix(in srgb, var(--mui-palette-${colour}-main) ${density}%, transparent)` }}
                    >
                        {here === column && typing !== null ? (
                            <input
                                aria-label="Value"
                                // The cell is where the keyboard is already.
                                autoFocus
                                value={typing}
                                inputMode="decimal"
                                autoComplete="off"
                                onChange={(event) => props.onTyping(event.target.value)}
                                onBlur={() => props.onCommit(typing, 'stay')}
                                onKeyDown={(event) => {
                                    event.stopPropagation();
                                    if (event.key === 'Escape') props.onTyping(null);
                                    if (event.key !== 'Enter' && event.key !== 'Tab') return;
                                    event.preventDefault();
                                    props.onCommit(typing, event.key === 'Enter' ? 'down' : event.shiftKey ? 'left' : 'right');
                                }}
                                style={{ width: '100%', height: '100%', boxSizing: 'border-box', border: 0, font: 'inherit', textAlign: 'right', background: 'var(--mui-palette-background-paper)', color: 'inherit', outline: '2px solid var(--mui-palette-primary-main)' }}
                            />
                        ) : (
                            (props.content?.(row, column) ?? formatNumber(show(shown), decimals))
                        )}
                    </td>
                );
            })}
        </tr>
    );
});
