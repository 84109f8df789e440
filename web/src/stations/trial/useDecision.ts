import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Trial } from '../../api/client';
import { trialQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { useKeys } from '../../parts/shortcuts';
import { parseNumber } from '../../units/units';

type Part = Trial['advice'][number];

export type Mode = 'look' | 'change' | 'decline';

interface Cell {
    index: number[];
    to: number;
}

/** The two ways to decide, each written once. */
function useAnswers(trial: Trial, note: string, parts: string[]) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const path = { job_id: job.id, trial_id: trial.id };
    const written = async (changed: Trial) => {
        queryClient.setQueryData(trialQuery(job.id, trial.id).queryKey, changed);
        await refresh(queryClient, job.id, 'trials', 'tables');
    };
    const accept = useMutation({
        mutationFn: (changes: Cell[] | null) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/trials/{trial_id}/accept', {
                    params: { path },
                    body: { changes, parts, note },
                }),
            ),
        onSuccess: (answer) => written(answer.trial),
    });
    const decline = useMutation({
        mutationFn: () =>
            unwrap(client.POST('/api/jobs/{job_id}/trials/{trial_id}/decline', { params: { path }, body: { note } })),
        onSuccess: written,
    });
    return { accept, decline };
}

/** What is typed and ticked until the advice of a trial is decided, and the keys that do it. */
export function useDecision(trial: Trial) {
    const [mode, setMode] = useState<Mode>('look');
    const [note, setNote] = useState('');
    const [own, setOwn] = useState<Record<string, string>>({});
    const [chosen, setChosen] = useState<Readonly<Record<string, boolean>>>({});
    const advice = trial.advice[0];
    const takes = (part: Part) => (part.table !== null && chosen[part.table]) ?? part.taken;
    const parts = trial.advice.filter((part, place) => place === 0 || takes(part)).flatMap((part) => part.table ?? []);
    const { accept, decline } = useAnswers(trial, note, parts);
    const take = (table: string, on: boolean) => setChosen({ ...chosen, [table]: on });
    useKeys({
        a: () => void (advice?.table && !accept.isPending && accept.mutate(null)),
        d: () => setMode('decline'),
    });
    const typed = (index: number[], to: number) => own[index.join()] ?? String(to);
    const changes = (advice?.changes ?? []).map((change) => ({
        index: change.index,
        to: parseNumber(typed(change.index, change.to)),
    }));
    const complete = changes.every((change) => change.to !== null);
    const type = (index: number[], text: string) => setOwn({ ...own, [index.join()]: text });
    return { mode, setMode, note, setNote, takes, take, accept, decline, typed, type, changes, complete };
}

export type Decision = ReturnType<typeof useDecision>;
