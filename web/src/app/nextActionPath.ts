import type { Job, TrialRow } from '../api/client';

/** Where the next action is done. */
export function nextActionPath(job: Job, trials: TrialRow[]): string {
    const base = `/jobs/${job.id}`;
    const { kind, station, part, trial } = job.next_action;
    if (kind === 'enter' || kind === 'check') return [base, station, part].filter(Boolean).join('/');
    const about = trials.find((entry) => entry.number === trial);
    if ((kind === 'decide' || kind === 'mend') && about) return `${base}/trials/${about.id}`;
    if (kind === 'prove' && station === 'ladder') return `${base}/ladder`;
    return `${base}/record`;
}
