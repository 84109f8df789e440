import type { Calibration, Schemas, Table } from '../../api/client';

/** Values of any table as rows and columns: a curve stands upright, a single number is one cell. */
export type Grid = readonly (readonly number[])[];

export interface Cell {
    row: number;
    column: number;
}

/** A rectangle of cells from the one that stays to the one that moves. */
export interface Region {
    from: Cell;
    to: Cell;
}

export function gridOf(table: Pick<AnyTable, 'values'>): Grid {
    const { values } = table;
    if (typeof values === 'number') return [[values]];
    return (values as (number | number[])[]).map((row) => (typeof row === 'number' ? [row] : row));
}

/** The values nested as the table has its axes. */
export function nested(grid: Grid, dimensions: number): number | number[] | number[][] {
    if (dimensions === 0) return grid[0]?.[0] ?? 0;
    if (dimensions === 1) return grid.map((row) => row[0] ?? 0);
    return grid.map((row) => [...row]);
}

/** Row and column of a cell as the server counts it. */
export function cellAt(index: readonly number[]): Cell {
    return { row: index[0] ?? 0, column: index[1] ?? 0 };
}

export function indexOf(cell: Cell, dimensions: number): number[] {
    return [cell.row, cell.column].slice(0, dimensions);
}

export function bounds(region: Region) {
    return {
        first_row: Math.min(region.from.row, region.to.row),
        last_row: Math.max(region.from.row, region.to.row),
        first_column: Math.min(region.from.column, region.to.column),
        last_column: Math.max(region.from.column, region.to.column),
    };
}

export function isInside(region: Region, row: number, column: number): boolean {
    const box = bounds(region);
    return row >= box.first_row && row <= box.last_row && column >= box.first_column && column <= box.last_column;
}

export function keyOf(row: number, column: number): string {
    return `${row}.${column}`;
}

/** Where each cell comes from, as rows and columns. */
export function marksOf(table: Pick<AnyTable, 'provenance'>): Schemas['Provenance'][][] {
    const { provenance } = table;
    if (!Array.isArray(provenance)) return [[provenance]];
    return (provenance as (Schemas['Provenance'] | Schemas['Provenance'][])[]).map((row) =>
        Array.isArray(row) ? row : [row],
    );
}

export function spanOf(grid: Grid): [number, number] {
    let low = Infinity;
    let high = -Infinity;
    for (const row of grid) {
        for (const value of row) {
            if (value < low) low = value;
            if (value > high) high = value;
        }
    }
    return [low, high];
}

/** A table as the bench has it: a setting is a table without axes. */
export interface AnyTable {
    unit: string;
    axes: Table['axes'];
    values: number | Table['values'];
    provenance: Schemas['Provenance'] | Table['provenance'];
}

export function tableOf(calibration: Calibration, key: string): AnyTable | undefined {
    const setting = calibration.settings[key];
    return calibration.tables[key] ?? (setting && { unit: setting.unit, axes: [], values: setting.value, provenance: setting.provenance });
}

/** Where a value lies between breakpoints: 1.25 is a quarter of the way from the second to the third. */
export function placeOn(points: readonly number[], value: number): number {
    const last = points.length - 1;
    if (last < 1 || value <= (points[0] ?? 0)) return 0;
    if (value >= (points[last] ?? 0)) return last;
    let right = 1;
    while ((points[right] ?? Infinity) < value) right += 1;
    const low = points[right - 1] ?? 0;
    const high = points[right] ?? 1;
    return right - 1 + (value - low) / (high - low);
}
