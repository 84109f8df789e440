import type { Calibration, Schemas } from '../../api/client';
import { changedCells, drafted, type Draft, type Step } from '../../parts/draft/draft';
import { gridOf, tableOf } from '../../parts/draft/grid';

/** A cell of a start table. */
export interface CellAt {
    table: string;
    index: number;
}

export const cellKey = ({ table, index }: CellAt): string => `${table}:${index}`;

/** Values of a one-axis table. */
export function curveValues(calibration: Calibration, table: string): number[] {
    return (calibration.tables[table]?.values ?? []) as number[];
}

/** Typed but not yet saved values of the start tables. */
export function editedCells(base: Calibration, definitions: readonly Pick<Schemas['TableDefinition'], 'key'>[], draft: Draft): Record<string, number> {
    const edited: Record<string, number> = {};
    for (const { key } of definitions) {
        const table = tableOf(base, key);
        if (!table) continue;
        const saved = gridOf(table);
        for (const { row, to } of changedCells(saved, drafted(saved, key, draft.done))) edited[cellKey({ table: key, index: row })] = to;
    }
    return edited;
}

/** One typed value as a step of the draft. */
export function typedStep(cell: CellAt, from: number, to: number): Step {
    return { table: cell.table, said: 'Typed', changes: [{ row: cell.index, column: 0, from, to }] };
}
