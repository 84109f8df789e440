import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import { useMemo, type ComponentProps, type RefObject } from 'react';

import type { Schemas } from '../../api/client';
import type { Cell, Grid } from '../draft/grid';
import type { Drawn } from './bench';
import { layer, type Driven, type View } from './layers';
import type { Place } from './LogCursor';
import { SheetGrid } from './SheetGrid';
import { SliceCurve } from './Slices';
import { slicesOf } from './slicesOf';
import { Surface } from './Surface';

type Handlers = Pick<
    ComponentProps<typeof SheetGrid>,
    'onSelect' | 'onTyping' | 'onCommit' | 'onKey' | 'onCopy' | 'onPaste' | 'region' | 'typing' | 'coming' | 'flagged'
>;

interface Props {
    definition: Schemas['TableDefinition'];
    drawn: Drawn;
    view: View;
    hits: Grid | null;
    driven: Driven | null;
    here: Cell;
    cursor: Place | null;
    sheet: RefObject<HTMLDivElement | null>;
    handlers: Handlers;
    onMove: (cell: Cell, shown: number) => void;
}

/** The table as a sheet, with slices beside it, or as a surface. */
export function BenchView({ definition, drawn, view, hits, driven, here, cursor, sheet, handlers, onMove }: Props) {
    const { grid, saved, marks, display, down, across, locked } = drawn;
    const { show, decimals } = display;
    const shownLayer = useMemo(() => layer(view, { grid, saved, marks, hits, driven, show, decimals }), [view, grid, saved, marks, hits, driven, show, decimals]);
    if (view === 'surface' && across) {
        return (
            <Box ref={sheet}>
                <Surface
                    label={`${definition.title} as a surface over ${down.title.toLowerCase()} and ${across.title.toLowerCase()}`}
                    down={down}
                    across={across}
                    grid={grid}
                    other={grid === saved ? undefined : saved}
                    show={show}
                    unit={display.unit}
                    decimals={decimals}
                    selected={here}
                    cursor={cursor}
                />
            </Box>
        );
    }
    return (
        <Box ref={sheet}>
            <Stack direction={across && view !== 'slices' ? 'column' : { xs: 'column', lg: 'row' }} sx={{ gap: 2, alignItems: 'flex-start' }}>
                <SheetGrid
                    label={definition.title}
                    {...{ down, across, grid, saved, locked, show, decimals, cursor }}
                    {...handlers}
                    {...shownLayer}
                />
                {(!across || view === 'slices') && <SlicePair {...{ definition, drawn, here, cursor, onMove }} onSelect={(cell) => handlers.onSelect(cell, false)} />}
            </Stack>
        </Box>
    );
}

type SliceProps = Pick<Props, 'definition' | 'drawn' | 'here' | 'cursor' | 'onMove'> & { onSelect: (cell: Cell) => void };

/** The selected row and column as curves with points to draw. */
function SlicePair({ definition, drawn, here, cursor, onMove, onSelect }: SliceProps) {
    const { grid, saved, down, across, display } = drawn;
    const slices = slicesOf(grid, saved, here, down, across, display.show, cursor);
    const [lower, upper] = [display.show(definition.lower), display.show(definition.upper)].sort((a, b) => a - b) as [number, number];
    const cellOf = (key: 'down' | 'across', point: number): Cell =>
        key === 'down' ? { row: point, column: here.column } : { row: here.row, column: point };
    if (!slices.length) return null;
    const beside = across ? { display: 'grid', gridTemplateColumns: { sm: '1fr 1fr', lg: '1fr' }, gap: 1 } : {};
    return (
        <Box sx={{ flex: '1 1 360px', minWidth: 280, width: '100%', maxWidth: 520, ...beside }}>
            {slices.map(({ key, slice }) => (
                <SliceCurve
                    key={key}
                    slice={slice}
                    unit={display.unit}
                    decimals={display.decimals}
                    lower={lower}
                    upper={upper}
                    onMove={(point, shown) => onMove(cellOf(key, point), shown)}
                    onSelect={(point) => onSelect(cellOf(key, point))}
                    height={across ? 190 : 300}
                    width={across ? 330 : 520}
                />
            ))}
        </Box>
    );
}
