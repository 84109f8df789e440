import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Fitting, type PlanEntry, type Schemas, type Wiring, type WiringPlan } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { useComputed } from '../../parts/useComputed';

type LineEdit = Schemas['LineEdit'];

const NO_EDIT: LineEdit = { length_m: null, size_mm2: null, colour: '', note: '' };

export interface WiringWork {
    wiring: Wiring;
    controller: string;
    entry: PlanEntry;
    /** What the server makes of the draft; the last good answer while it is asked. */
    plan: WiringPlan;
    changes: Schemas['LineChange'][];
    error: Error | null;
    isDirty: boolean;
    isSaving: boolean;
    saveError: Error | null;
    setController: (key: string) => void;
    setFitting: (part: Partial<Fitting>) => void;
    replaceFitting: (fitting: Fitting) => void;
    place: (functionKey: string, pin: string | null) => void;
    freeAll: () => void;
    edit: (line: string, part: Partial<LineEdit>) => void;
    save: () => void;
}

/** A plan while it is worked on: the draft, what follows from it, and saving it. */
export function useWiring(wiring: Wiring): WiringWork {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [controller, setController] = useState(wiring.number ? 'saved' : wiring.controller);
    const [entry, setEntry] = useState<PlanEntry>(wiring.entry);
    const path = { params: { path: { job_id: job.id } } };
    const isDirty = JSON.stringify(entry) !== JSON.stringify(wiring.entry) || (controller !== 'saved' && (wiring.number > 0 || controller !== wiring.controller));
    const preview = useComputed(`wiring-${job.id}-${wiring.number}`, isDirty ? { controller, entry } : null, (body) =>
        unwrap(client.POST('/api/jobs/{job_id}/wiring/preview', { ...path, body })),
    );
    const save = useMutation({
        mutationFn: (sent: PlanEntry) => unwrap(client.POST('/api/jobs/{job_id}/wiring', { ...path, body: { controller, entry: sent } })),
        onSuccess: (saved, sent) => {
            setController('saved');
            // What was typed while it was saved stays typed.
            setEntry((now) => (now === sent ? saved.entry : now));
            return refresh(queryClient, job.id, 'wiring');
        },
    });
    const answer = isDirty ? preview.data : undefined;
    return {
        wiring,
        controller,
        entry,
        plan: answer?.plan ?? wiring.plan,
        changes: answer?.changes ?? wiring.changes,
        error: isDirty ? preview.error : null,
        isDirty,
        isSaving: save.isPending,
        saveError: save.error,
        setController,
        setFitting: (part) => setEntry((old) => ({ ...old, fitting: { ...old.fitting, ...part } })),
        replaceFitting: (fitting) => setEntry((old) => ({ ...old, fitting })),
        place: (functionKey, pin) =>
            setEntry((old) => {
                const others = Object.entries(old.by_hand ?? {}).filter(([key, at]) => key !== functionKey && at !== pin);
                return { ...old, by_hand: Object.fromEntries(pin ? [...others, [functionKey, pin]] : others) };
            }),
        freeAll: () => setEntry((old) => ({ ...old, by_hand: {} })),
        edit: (line, part) =>
            setEntry((old) => ({
                ...old,
                edits: { ...old.edits, [line]: { ...NO_EDIT, ...old.edits?.[line], ...part } },
            })),
        save: () => save.mutate(entry),
    };
}
