import { useCallback, useEffect, useRef, useState } from 'react';

import { draftReducer, emptyDraft, shortened, type Draft, type DraftAction, type Step } from './draft';

const nameOf = (jobId: number) => `inbetrieb.table-bench.${jobId}`;
const PAUSE_MS = 300;

/** Steps as they are kept: table, what was said, and row, column, from, to of each change in a row. */
type Kept = [string, string, number[]];

function pack(step: Step): Kept {
    return [step.table, step.said, step.changes.flatMap(({ row, column, from, to }) => [row, column, from, to])];
}

function unpack([table, said, numbers]: Kept): Step {
    const changes = [];
    for (let i = 0; i + 3 < numbers.length; i += 4) {
        const [row = 0, column = 0, from = 0, to = 0] = numbers.slice(i, i + 4);
        changes.push({ row, column, from, to });
    }
    return { table, said, changes };
}

function stored(jobId: number, revision: number): Draft {
    try {
        const kept = JSON.parse(localStorage.getItem(nameOf(jobId)) ?? 'null') as { revision: number; done: Kept[]; undone: Kept[]; locked: Draft['locked'] } | null;
        if (typeof kept?.revision === 'number') {
            const draft = { revision: kept.revision, done: kept.done.map(unpack), undone: kept.undone.map(unpack), locked: kept.locked };
            // A draft with nothing in it follows the newest revision.
            return draft.done.length ? draft : { ...draft, revision };
        }
    } catch {
        // Unreadable: begin anew.
    }
    return emptyDraft(revision);
}

function keep(jobId: number, draft: Draft) {
    // What does not fit is joined into fewer steps: values are never lost, only ways back.
    for (const most of [Infinity, 60, 15, 1]) {
        const { done, undone } = shortened(draft, most);
        try {
            localStorage.setItem(nameOf(jobId), JSON.stringify({ ...draft, done: done.map(pack), undone: undone.map(pack) }));
            return;
        } catch {
            continue;
        }
    }
}

/**
 * The draft of a job: kept in the browser after every step, so that undo outlives a reload. `now` is
 * the draft with everything dispatched so far in it, whether it is drawn yet or not.
 */
export function useDraft(jobId: number, revision: number) {
    const [draft, setDraft] = useState(() => stored(jobId, revision));
    const newest = useRef(draft);
    const dispatch = useCallback((action: DraftAction) => {
        newest.current = draftReducer(newest.current, action);
        setDraft(newest.current);
    }, []);
    const now = useCallback(() => newest.current, []);
    useEffect(() => {
        const timer = setTimeout(() => keep(jobId, draft), PAUSE_MS);
        return () => clearTimeout(timer);
    }, [jobId, draft]);
    useEffect(() => {
        const flush = () => keep(jobId, newest.current);
        window.addEventListener('pagehide', flush);
        return () => {
            window.removeEventListener('pagehide', flush);
            flush();
        };
    }, [jobId]);
    return { draft, dispatch, now };
}
