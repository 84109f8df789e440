import type { Calibration } from '../../api/client';
import { gridOf, keyOf, tableOf, type Grid } from './grid';

/** One cell before and after. */
export interface Change {
    row: number;
    column: number;
    from: number;
    to: number;
}

/** One thing done to one table; undoing it is one key. */
export interface Step {
    table: string;
    said: string;
    changes: Change[];
}

/** What is being edited: everything here outlives a reload of the page. */
export interface Draft {
    revision: number;
    done: Step[];
    undone: Step[];
    /** Locked cells by table. */
    locked: Record<string, string[]>;
}

export const MOST_STEPS = 200;

export function emptyDraft(revision: number): Draft {
    return { revision, done: [], undone: [], locked: {} };
}

export type DraftAction =
    | { type: 'step'; step: Step }
    | { type: 'undo' }
    | { type: 'redo' }
    | { type: 'lock'; table: string; cells: string[]; on: boolean }
    | { type: 'clear'; revision: number }
    | { type: 'load'; draft: Draft };

export function draftReducer(draft: Draft, action: DraftAction): Draft {
    switch (action.type) {
        case 'step': {
            const changes = action.step.changes.filter((change) => change.from !== change.to);
            if (!changes.length) return draft;
            return { ...draft, done: limited([...draft.done, { ...action.step, changes }]), undone: [] };
        }
        case 'undo': {
            const last = draft.done.at(-1);
            if (!last) return draft;
            return { ...draft, done: draft.done.slice(0, -1), undone: [...draft.undone, last] };
        }
        case 'redo': {
            const next = draft.undone.at(-1);
            if (!next) return draft;
            return { ...draft, done: [...draft.done, next], undone: draft.undone.slice(0, -1) };
        }
        case 'lock': {
            const now = new Set(draft.locked[action.table] ?? []);
            action.cells.forEach((cell) => (action.on ? now.add(cell) : now.delete(cell)));
            return { ...draft, locked: { ...draft.locked, [action.table]: [...now] } };
        }
        case 'clear':
            return { ...emptyDraft(action.revision), locked: draft.locked };
        case 'load':
            return action.draft;
    }
}

/** The oldest steps are joined into one rather than lost: what they changed stays changed. */
function limited(steps: Step[]): Step[] {
    if (steps.length <= MOST_STEPS + 1) return steps;
    const [first, second, ...rest] = steps as [Step, Step, ...Step[]];
    if (first.table === second.table) return [joined(first, second), ...rest];
    // Steps of different tables do not meet: the older one moves to the next of its own table.
    const mate = rest.findIndex((step) => step.table === first.table);
    if (mate < 0) return steps;
    const moved = [...rest];
    moved[mate] = joined(first, moved[mate] as Step);
    return [second, ...moved];
}

/** The draft with at most so many steps: older ones joined, table by table. */
export function shortened(draft: Draft, most: number): Pick<Draft, 'done' | 'undone'> {
    if (draft.done.length <= most) return { done: draft.done, undone: Number.isFinite(most) ? [] : draft.undone };
    const older = draft.done.slice(0, draft.done.length - most);
    const byTable = new Map<string, Step>();
    for (const step of older) {
        const before = byTable.get(step.table);
        byTable.set(step.table, before ? joined(before, step) : step);
    }
    return { done: [...byTable.values(), ...draft.done.slice(-most)], undone: [] };
}

function joined(first: Step, second: Step): Step {
    const cells = new Map(first.changes.map((change) => [keyOf(change.row, change.column), change]));
    for (const change of second.changes) {
        const key = keyOf(change.row, change.column);
        const before = cells.get(key);
        cells.set(key, before ? { ...change, from: before.from } : change);
    }
    return { table: first.table, said: 'Older changes', changes: [...cells.values()] };
}

/** A table with the steps of a draft on it; untouched rows keep their identity. */
export function drafted(saved: Grid, table: string, steps: readonly Step[]): Grid {
    let rows: (readonly number[])[] | null = null;
    const own = new Set<number>();
    for (const step of steps) {
        if (step.table !== table) continue;
        for (const { row, column, to } of step.changes) {
            const old = (rows ?? saved)[row];
            if (!old || column >= old.length) continue;
            rows ??= [...saved];
            if (!own.has(row)) {
                rows[row] = [...old];
                own.add(row);
            }
            (rows[row] as number[])[column] = to;
        }
    }
    return rows ?? saved;
}

/** Cells whose value differs from the saved one. */
export function changedCells(saved: Grid, now: Grid): Change[] {
    const changes: Change[] = [];
    now.forEach((line, row) => {
        if (line === saved[row]) return;
        line.forEach((to, column) => {
            const from = saved[row]?.[column];
            if (from !== undefined && from !== to) changes.push({ row, column, from, to });
        });
    });
    return changes;
}

export function touchedTables(draft: Draft): string[] {
    return [...new Set(draft.done.map((step) => step.table))];
}

export interface Rebased {
    draft: Draft;
    kept: number;
    /** Cells that both have changed; the draft's value stands. */
    both: string[];
    /** Tables whose breakpoints changed: what was typed there cannot be brought along. */
    lost: string[];
}

/** What was typed on one revision, brought onto another one. */
export function rebased(draft: Draft, before: Calibration, after: Calibration): Rebased {
    const result: Rebased = { draft: { ...emptyDraft(after.revision), locked: draft.locked }, kept: 0, both: [], lost: [] };
    for (const table of touchedTables(draft)) {
        const old = tableOf(before, table);
        const now = tableOf(after, table);
        if (!old) continue;
        if (!now || JSON.stringify(old.axes) !== JSON.stringify(now.axes)) {
            result.lost.push(table);
            continue;
        }
        const saved = gridOf(old);
        const theirs = gridOf(now);
        const changes = changedCells(saved, drafted(saved, table, draft.done)).map((change) => {
            const standing = theirs[change.row]?.[change.column] ?? change.from;
            if (standing !== change.from) result.both.push(`${table} ${keyOf(change.row, change.column)}`);
            return { ...change, from: standing };
        });
        result.kept += changes.length;
        result.draft.done.push({ table, said: `Brought from revision ${draft.revision}`, changes });
    }
    return result;
}
