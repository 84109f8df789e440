import type { Job, Trial } from '../api/client';

/** Where the next action is done. */
export function nextActionPath(job: Job, trials: Trial[]): string {
    const base = `/jobs/${job.id}`;
    const { kind, trial } = job.next_action;
    const about = trials.find((entry) => entry.number === trial);
    if ((kind === 'decide' || kind === 'mend') && about) return `${base}/trials/${about.id}`;
    if (kind === 'prove' && job.next_action.station === 'ladder') return `${base}/ladder`;
    return `${base}/record`;
}
