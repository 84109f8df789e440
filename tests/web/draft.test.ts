import { changedCells, draftReducer, drafted, emptyDraft, MOST_STEPS, rebased, shortened, touchedTables, type Draft, type Step } from '@/parts/draft/draft';
import type { Grid } from '@/parts/draft/grid';

import { calibration } from './calibration';

const step = (table: string, row: number, from: number, to: number, column = 0): Step => ({ table, said: 'Typed', changes: [{ row, column, from, to }] });
const after = (draft: Draft, ...steps: Step[]) => steps.reduce((now, one) => draftReducer(now, { type: 'step', step: one }), draft);

describe('steps', () => {
    test('a step that changes nothing is none', () => {
        expect(after(emptyDraft(1), step('ve', 0, 5, 5)).done).toEqual([]);
    });

    test('undo and redo', () => {
        let draft = after(emptyDraft(1), step('ve', 0, 1, 2), step('ve', 0, 2, 3));
        draft = draftReducer(draft, { type: 'undo' });
        expect(draft.done).toHaveLength(1);
        draft = draftReducer(draft, { type: 'redo' });
        expect(draft.done.at(-1)?.changes[0]?.to).toBe(3);
        expect(draftReducer(draft, { type: 'redo' })).toBe(draft);
    });

    test('nothing to undo leaves the draft as it is', () => {
        const draft = emptyDraft(3);
        expect(draftReducer(draft, { type: 'undo' })).toBe(draft);
    });

    test('a new step forgets what was undone', () => {
        let draft = after(emptyDraft(1), step('ve', 0, 1, 2));
        draft = draftReducer(draft, { type: 'undo' });
        expect(after(draft, step('ve', 1, 1, 9)).undone).toEqual([]);
    });

    test('clearing keeps the locks', () => {
        let draft = draftReducer(emptyDraft(1), { type: 'lock', table: 've', cells: ['0.0', '0.1'], on: true });
        draft = draftReducer(after(draft, step('ve', 3, 1, 2)), { type: 'clear', revision: 2 });
        expect(draft).toEqual({ revision: 2, done: [], undone: [], locked: { ve: ['0.0', '0.1'] } });
        expect(draftReducer(draft, { type: 'lock', table: 've', cells: ['0.0'], on: false }).locked.ve).toEqual(['0.1']);
    });

    test('a reducer never writes to the old draft', () => {
        const draft = after(emptyDraft(1), step('ve', 0, 1, 2));
        const frozen = JSON.stringify(draft);
        after(draft, step('ve', 1, 1, 2));
        draftReducer(draft, { type: 'undo' });
        draftReducer(draft, { type: 'lock', table: 've', cells: ['1.1'], on: true });
        expect(JSON.stringify(draft)).toBe(frozen);
    });

    test('of more steps than are kept the oldest are joined, and no value is lost', () => {
        let draft = emptyDraft(1);
        const saved: Grid = Array.from({ length: 20 }, () => [0]);
        for (let i = 0; i < MOST_STEPS + 60; i += 1) draft = after(draft, step(i % 3 ? 've' : 'spark', i % 20, 0, i));
        expect(draft.done.length).toBeLessThanOrEqual(MOST_STEPS + 1);
        const now = drafted(saved, 've', draft.done);
        for (let row = 0; row < 20; row += 1) {
            const last = Array.from({ length: MOST_STEPS + 60 }, (_, i) => i).filter((i) => i % 3 && i % 20 === row).at(-1);
            expect(now[row]?.[0]).toBe(last ?? 0);
        }
    });
});

describe('what a draft makes of a table', () => {
    const saved: Grid = [
        [1, 2],
        [3, 4],
    ];

    test('untouched rows keep their identity', () => {
        const now = drafted(saved, 've', [step('ve', 1, 4, 9, 1)]);
        expect(now).toEqual([
            [1, 2],
            [3, 9],
        ]);
        expect(now[0]).toBe(saved[0]);
        expect(saved[1]).toEqual([3, 4]);
    });

    test('steps of other tables, and cells that are not there, do nothing', () => {
        expect(drafted(saved, 've', [step('spark', 0, 1, 9), step('ve', 7, 1, 9), step('ve', 0, 1, 9, 5)])).toBe(saved);
    });

    test('changed cells', () => {
        const now = drafted(saved, 've', [step('ve', 0, 1, 5), step('ve', 0, 5, 1), step('ve', 1, 3, 8)]);
        expect(changedCells(saved, now)).toEqual([{ row: 1, column: 0, from: 3, to: 8 }]);
    });

    test('touched tables, each once', () => {
        expect(touchedTables(after(emptyDraft(1), step('ve', 0, 1, 2), step('spark', 0, 1, 2), step('ve', 0, 2, 3)))).toEqual(['ve', 'spark']);
    });
});

describe('a draft that is shortened', () => {
    const draft = after(emptyDraft(1), step('ve', 0, 1, 2), step('ve', 0, 2, 3), step('spark', 0, 1, 5), step('ve', 1, 1, 7));

    test('short enough stays as it is', () => expect(shortened(draft, 10).done).toBe(draft.done));

    test('older steps are joined table by table', () => {
        const { done } = shortened(draft, 1);
        expect(done).toHaveLength(3);
        expect(done[0]?.changes).toEqual([{ row: 0, column: 0, from: 1, to: 3 }]);
        expect(done.at(-1)).toEqual(draft.done.at(-1));
    });
});

describe('a draft that is brought onto another revision', () => {
    const before = calibration(1, { idle_valve: [10, 20, 30], idle_target: [900, 850, 800] });

    test('what was typed rests on the new values', () => {
        const now = calibration(2, { idle_valve: [10, 25, 30], idle_target: [900, 850, 800] });
        const draft = after(emptyDraft(1), step('idle_valve', 0, 10, 12));
        const result = rebased(draft, before, now);
        expect(result.kept).toBe(1);
        expect(result.both).toEqual([]);
        expect(result.draft.revision).toBe(2);
        expect(drafted([[10], [25], [30]], 'idle_valve', result.draft.done)).toEqual([[12], [25], [30]]);
    });

    test('a cell that both have changed is told', () => {
        const now = calibration(2, { idle_valve: [11, 20, 30], idle_target: [900, 850, 800] });
        const result = rebased(after(emptyDraft(1), step('idle_valve', 0, 10, 12)), before, now);
        expect(result.both).toEqual(['idle_valve 0.0']);
        expect(result.draft.done[0]?.changes[0]).toEqual({ row: 0, column: 0, from: 11, to: 12 });
    });

    test('other breakpoints lose what was typed, and say so', () => {
        const now = calibration(2, { idle_valve: [1, 2], idle_target: [900, 850, 800] });
        const draft = after(emptyDraft(1), step('idle_valve', 0, 10, 12), step('idle_target', 2, 800, 820));
        const result = rebased(draft, before, now);
        expect(result.lost).toEqual(['idle_valve']);
        expect(result.kept).toBe(1);
    });

    test('a table that the old revision did not have is passed over', () => {
        expect(rebased(after(emptyDraft(1), step('boost_cut', 0, 1, 2)), before, before).kept).toBe(0);
    });
});
