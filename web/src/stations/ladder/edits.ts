import type { Calibration } from '../../api/client';

/** A cell of a start table. */
export interface CellAt {
    table: string;
    index: number;
}

export const cellKey = ({ table, index }: CellAt): string => `${table}:${index}`;

/** Typed but not yet saved values, with everything needed to undo and redo. */
export interface Edits {
    present: Record<string, number>;
    past: Record<string, number>[];
    future: Record<string, number>[];
}

export const NO_EDITS: Edits = { present: {}, past: [], future: [] };

export type EditAction =
    | { type: 'set'; cell: CellAt; value: number; saved: number }
    | { type: 'undo' }
    | { type: 'redo' }
    | { type: 'clear' };

export function editsReducer(state: Edits, action: EditAction): Edits {
    switch (action.type) {
        case 'set': {
            const key = cellKey(action.cell);
            const present = { ...state.present };
            if (action.value === action.saved) delete present[key];
            else present[key] = action.value;
            if (present[key] === state.present[key]) return state;
            return { present, past: [...state.past, state.present].slice(-200), future: [] };
        }
        case 'undo': {
            const before = state.past.at(-1);
            if (!before) return state;
            return { present: before, past: state.past.slice(0, -1), future: [state.present, ...state.future] };
        }
        case 'redo': {
            const after = state.future[0];
            if (!after) return state;
            return { present: after, past: [...state.past, state.present], future: state.future.slice(1) };
        }
        case 'clear':
            return NO_EDITS;
    }
}

/** Values of a one-axis table. */
export function curveValues(calibration: Calibration, table: string): number[] {
    return (calibration.tables[table]?.values ?? []) as number[];
}

/** Whole tables with the typed values put in, as the server wants them. */
export function editedTables(
    calibration: Calibration,
    present: Record<string, number>,
): Record<string, { values: number[] }> {
    const tables: Record<string, { values: number[] }> = {};
    for (const [key, value] of Object.entries(present)) {
        const [table = '', index = ''] = key.split(':');
        tables[table] ??= { values: [...curveValues(calibration, table)] };
        tables[table].values[Number(index)] = value;
    }
    return tables;
}
