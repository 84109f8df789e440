import { useEffect, useReducer } from 'react';

import { draftReducer, emptyDraft, type Draft } from './draft';

const nameOf = (jobId: number) => `inbetrieb.table-bench.${jobId}`;

function isDraft(value: unknown): value is Draft {
    const draft = value as Draft | null;
    return typeof draft?.revision === 'number' && Array.isArray(draft.done) && Array.isArray(draft.undone) && typeof draft.locked === 'object';
}

function stored(jobId: number, revision: number): Draft {
    try {
        const draft: unknown = JSON.parse(localStorage.getItem(nameOf(jobId)) ?? 'null');
        // A draft with nothing in it follows the newest revision.
        if (isDraft(draft)) return draft.done.length ? draft : { ...draft, revision };
    } catch {
        // Unreadable: begin anew.
    }
    return emptyDraft(revision);
}

/** The draft of a job: kept in the browser at every step, so that undo outlives a reload. */
export function useDraft(jobId: number, revision: number) {
    const [draft, dispatch] = useReducer(draftReducer, null, () => stored(jobId, revision));
    useEffect(() => {
        try {
            localStorage.setItem(nameOf(jobId), JSON.stringify(draft));
        } catch {
            // Full: the draft itself is unharmed, only a reload would lose it.
        }
    }, [jobId, draft]);
    return [draft, dispatch] as const;
}
