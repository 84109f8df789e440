import { useState } from 'react';

import { bounds, keyOf, type Cell, type Grid, type Region } from '../draft/grid';

const START: Region = { from: { row: 0, column: 0 }, to: { row: 0, column: 0 } };

/** Which cells are chosen: a rectangle from the cell that stays to the one that moves. */
export function useSelection(grid: Grid) {
    const [region, setRegion] = useState<Region>(START);
    const rows = grid.length;
    const columns = grid[0]?.length ?? 1;
    const box = bounds(region);
    const here = region.to;
    const select = (cell: Cell, extend: boolean) => {
        const inside = {
            row: Math.min(rows - 1, Math.max(0, cell.row)),
            column: Math.min(columns - 1, Math.max(0, cell.column)),
        };
        setRegion((old) => (extend ? { from: old.from, to: inside } : { from: inside, to: inside }));
    };
    const selectAll = () => setRegion({ from: { row: 0, column: 0 }, to: { row: rows - 1, column: columns - 1 } });
    return {
        region, setRegion, select, selectAll, here, box, rows, columns,
        value: grid[here.row]?.[here.column] ?? 0,
        count: (box.last_row - box.first_row + 1) * (box.last_column - box.first_column + 1),
        cells: () => cellsIn(box),
    };
}

export type Selection = ReturnType<typeof useSelection>;

/** Keys of every cell of a rectangle. */
export function cellsIn(box: ReturnType<typeof bounds>): string[] {
    const cells: string[] = [];
    for (let row = box.first_row; row <= box.last_row; row += 1)
        for (let column = box.first_column; column <= box.last_column; column += 1) cells.push(keyOf(row, column));
    return cells;
}

/** The cell whose shown value lies nearest to a number; the first of equals. */
export function nearestCell(grid: Grid, number: number, show: (value: number) => number, start: Cell): Cell {
    let best = start;
    let off = Infinity;
    grid.forEach((line, row) =>
        line.forEach((cell, column) => {
            const distance = Math.abs(show(cell) - number);
            if (distance < off) [best, off] = [{ row, column }, distance];
        }),
    );
    return best;
}
