/** Logs and trials. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from './client';

/** So many of the newest trials stand in a list. */
const MOST_TRIALS = 100;

export const trialsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'trials'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/trials', { params: { path: { job_id: jobId }, query: { limit: MOST_TRIALS } } })),
    });

export const trialQuery = (jobId: number, trialId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'trials', trialId],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/trials/{trial_id}', {
                    params: { path: { job_id: jobId, trial_id: trialId } },
                }),
            ),
    });

export const logsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'logs'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/logs', { params: { path: { job_id: jobId } } })),
    });

export const samplesQuery = (jobId: number, logId: number, startS = 0, endS = 1e9) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'logs', logId, 'samples', startS, endS],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/logs/{log_id}/samples', {
                    params: {
                        path: { job_id: jobId, log_id: logId },
                        query: { start_s: startS, end_s: endS },
                    },
                }),
            ),
        staleTime: Infinity,
    });

/** One channel of a log, as much of it as a picture shows. */
export const drawnQuery = (jobId: number, logId: number, channel: string) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'logs', logId, 'drawn', channel],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/logs/{log_id}/samples', { params: { path: { job_id: jobId, log_id: logId }, query: { channels: channel, points: 1500 } } })),
        staleTime: Infinity,
    });

/** By how much the clock of a second log is ahead. */
export const besideQuery = (jobId: number, logId: number, otherId: number, channel: string) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'logs', logId, 'beside', otherId, channel],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/logs/{log_id}/beside/{other_id}', { params: { path: { job_id: jobId, log_id: logId, other_id: otherId }, query: { channel } } })),
        staleTime: Infinity,
        retry: false,
    });
