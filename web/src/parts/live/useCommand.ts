import { useMutation } from '@tanstack/react-query';
import { useRef } from 'react';

import { commandLive, type Command } from '../../api/live';
import { useJob } from '../jobContext';
import type { Live } from './useLive';

/** This tablet, or this tab of a browser: a page that is loaded anew is still the same. */
const TABLET = (() => {
    const kept = sessionStorage.getItem('tablet') ?? Math.random().toString(36).slice(2, 12);
    sessionStorage.setItem('tablet', kept);
    return kept;
})();
const EVERY_MS = 120;

/** Send commands to a session. Those that follow each other quickly are sent one at a time, the newest last. */
export function useCommand({ session, link }: Live) {
    const { job } = useJob();
    /** One after the other: what was let go must not arrive before it was held. */
    const line = useRef<Promise<unknown>>(Promise.resolve());
    const send = useMutation({
        mutationFn: (command: Command) => {
            const sent = line.current.then(() => commandLive(job.id, session.id, { ...command, tablet: TABLET }));
            line.current = sent.catch(() => undefined);
            return sent;
        },
        onSuccess: (state) => link.told(state),
    });
    const waiting = useRef<Command | null>(null);
    const timer = useRef<number | null>(null);
    /** For what is drawn with a finger: no more than some a second. */
    const soon = (command: Command) => {
        waiting.current = { ...waiting.current, ...command };
        timer.current ??= window.setTimeout(() => {
            timer.current = null;
            if (waiting.current) send.mutate(waiting.current);
            waiting.current = null;
        }, EVERY_MS);
    };
    return { now: send.mutate, soon, error: send.error, tablet: TABLET };
}
