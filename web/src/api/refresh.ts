import type { QueryClient } from '@tanstack/react-query';

/** What a change makes stale, by what was changed; the keys are those of the requests. */
const STALE = {
    tables: ['ladder', 'mornings', 'calibration', 'revisions', 'diff', 'review', 'base-maps', 'why', 'evidence', 'transfer', 'injectors', 'dwell'],
    transfer: ['transfer', 'revisions'],
    wiring: ['wiring', 'outputs', 'three-wire', 'trigger', 'output-tests', 'dwell', 'controller-forms', 'transfer', 'base-maps', 'review'],
    sensors: ['sensors', 'key-on', 'agreement', 'wiring'],
    injectors: ['injectors', 'supply', 'key-on', 'wiring', 'base-maps'],
    trigger: ['trigger', 'captures', 'timing', 'output-tests', 'dwell'],
    intake: ['intake', 'review'],
    idle: ['idle'],
    'first-start': ['first-start'],
    live: ['live'],
    'fuel-map': ['fuel-map'],
    pulls: ['pulls'],
    handover: ['handover'],
    trials: ['ladder', 'mornings', 'trials', 'evidence'],
    logs: ['logs', 'evidence'],
} as const;

export type Changed = keyof typeof STALE;

/**
 * Fetch again what a change made stale, and no more: the things named, the job itself (its next
 * action and gates may be others) and the board.
 */
export async function refresh(queryClient: QueryClient, jobId: number, ...changed: Changed[]): Promise<void> {
    const keys = new Set(changed.flatMap((thing) => STALE[thing] as readonly string[]));
    await Promise.all([
        queryClient.invalidateQueries({ queryKey: ['jobs', 'board'] }),
        queryClient.invalidateQueries({ queryKey: ['jobs', jobId], exact: true }),
        ...[...keys].map((key) => queryClient.invalidateQueries({ queryKey: ['jobs', jobId, key] })),
    ]);
}
