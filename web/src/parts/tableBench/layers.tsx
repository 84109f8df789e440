import Box from '@mui/material/Box';

import type { Schemas } from '../../api/client';
import { formatNumber } from '../../units/units';
import { halfBand, signedPercent, stay } from '../driven';
import { ProvenanceMark } from '../ProvenanceMark';
import type { Grid } from '../draft/grid';

export type View = 'sheet' | 'slices' | 'surface' | 'changes' | 'origin' | 'evidence' | 'asked' | 'band';

export const VIEWS: Record<View, string> = {
    sheet: 'Sheet',
    slices: 'Slices',
    surface: 'Surface',
    changes: 'Changes',
    origin: 'Origin',
    evidence: 'Evidence',
    asked: 'Drives ask',
    band: 'Their band',
};

/** What the newest pass of drives says of each cell: seconds on it, the factor it asks for, and its band. */
export interface Driven {
    seconds: Grid;
    asked: Grid;
    low: Grid;
    high: Grid;
}

interface LayerInput {
    grid: Grid;
    saved: Grid;
    marks: Schemas['Provenance'][][];
    hits: Grid | null;
    driven: Driven | null;
    show: (value: number) => number;
    decimals: number;
}

/** What a view puts into the cells and behind them. */
export function layer(view: View, input: LayerInput) {
    const { grid, saved, marks, hits, driven, show, decimals } = input;
    if (view === 'changes') {
        let most = 1e-9;
        grid.forEach((line, row) => line.forEach((cell, column) => (most = Math.max(most, Math.abs(cell - (saved[row]?.[column] ?? cell))))));
        const off = (row: number, column: number) => (grid[row]?.[column] ?? 0) - (saved[row]?.[column] ?? 0);
        return {
            ink: (row: number, column: number) => off(row, column) / most,
            content: (row: number, column: number) => {
                const by = show(grid[row]?.[column] ?? 0) - show(saved[row]?.[column] ?? 0);
                return Math.abs(by) < 0.5 * 10 ** -decimals ? '·' : `${by > 0 ? '+' : ''}${formatNumber(by, decimals)}`;
            },
        };
    }
    if (view === 'origin') {
        return {
            ink: () => 0,
            content: (row: number, column: number) => {
                const mark = marks[row]?.[column];
                return (
                    <Box component="span" sx={{ display: 'inline-flex', gap: 0.5, alignItems: 'center' }}>
                        {mark && <ProvenanceMark kind={mark.kind} />}
                        {formatNumber(show(grid[row]?.[column] ?? 0), decimals)}
                    </Box>
                );
            },
        };
    }
    if (view === 'evidence' && hits) {
        const most = Math.max(1, ...hits.flat());
        return {
            ink: (row: number, column: number) => Math.sqrt((hits[row]?.[column] ?? 0) / most),
            content: (row: number, column: number) => {
                const count = hits[row]?.[column] ?? 0;
                return count < 0.5 ? '·' : formatNumber(count, 0);
            },
        };
    }
    if ((view === 'asked' || view === 'band') && driven) {
        const seconds = (row: number, column: number) => driven.seconds[row]?.[column] ?? 0;
        return {
            // A cell is as dark as drives stayed on it.
            ink: (row: number, column: number) => stay(seconds(row, column)),
            content: (row: number, column: number) => {
                const at = (grid: Grid) => grid[row]?.[column] ?? 1;
                if (seconds(row, column) < 0.5) return '·';
                return view === 'band' ? halfBand(at(driven.low), at(driven.high)) : signedPercent(at(driven.asked));
            },
        };
    }
    return {};
}
