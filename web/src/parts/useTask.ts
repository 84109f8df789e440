import { useMutation } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import { followed, type Task } from '../api/tasks';

/** Long work begun by a button: its progress, its end, and a way to cancel it. */
export function useTask<Body, Result>(begin: (body: Body) => Promise<Task>, onDone: (result: Result) => void | Promise<void>) {
    const [progress, setProgress] = useState<Task | null>(null);
    const control = useRef<AbortController | null>(null);
    const work = useMutation({
        mutationFn: async (body: Body) => {
            control.current = new AbortController();
            return followed<Result>(await begin(body), setProgress, control.current.signal);
        },
        onSuccess: onDone,
        onSettled: () => setProgress(null),
    });
    const isCancelled = work.error?.name === 'AbortError';
    return { begin: work.mutate, isPending: work.isPending, error: isCancelled ? null : work.error, isCancelled, progress, cancel: () => control.current?.abort() };
}
