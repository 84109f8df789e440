import { formatNumber } from '../../units/units';
import type { Cell, Grid } from '../draft/grid';
import type { Place } from './LogCursor';
import type { Head } from './SheetGrid';
import type { Slice } from './Slices';

/** The selected row and column as curves. */
export function slicesOf(grid: Grid, saved: Grid, here: Cell, down: Head, across: Head | null, show: (value: number) => number, cursor: Place | null) {
    const result: { key: 'down' | 'across'; slice: Slice }[] = [];
    const on = (points: readonly number[], at: number | undefined) => {
        if (at === undefined) return null;
        const low = Math.floor(at);
        const a = points[low] ?? 0;
        return a + ((points[low + 1] ?? a) - a) * (at - low);
    };
    if (across && across.points.length > 1) {
        result.push({
            key: 'across',
            slice: {
                title: `At ${formatNumber(down.points[here.row] ?? 0, down.decimals)} ${down.unit}`,
                xLabel: `${across.title.split(',')[0] ?? ''}, ${across.unit}`,
                points: across.points,
                values: (grid[here.row] ?? []).map(show),
                saved: (saved[here.row] ?? []).map(show),
                at: here.column,
                cursor: on(across.points, cursor?.column),
            },
        });
    }
    if (down.points.length > 1) {
        result.push({
            key: 'down',
            slice: {
                title: across ? `At ${formatNumber(across.points[here.column] ?? 0, across.decimals)} ${across.unit}` : 'As a curve',
                xLabel: `${down.title}, ${down.unit}`,
                points: down.points,
                values: grid.map((line) => show(line[here.column] ?? 0)),
                saved: saved.map((line) => show(line[here.column] ?? 0)),
                at: here.row,
                cursor: on(down.points, cursor?.row),
            },
        });
    }
    return result;
}
