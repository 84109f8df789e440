/** Revisions and their tables. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from './client';

export const calibrationQuery = (jobId: number, revision?: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'calibration', revision ?? 'newest'],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/calibration', {
                    params: { path: { job_id: jobId }, query: { revision } },
                }),
            ),
    });

/** The newest revisions of a job in short. */
export const revisionsQuery = (jobId: number, limit: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'revisions', limit],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/revisions', { params: { path: { job_id: jobId }, query: { limit } } })),
    });

/** What the newest revisions changed in one cell. */
export const cellPastQuery = (jobId: number, table: string, index: number[]) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'revisions', 'past', table, index.join()],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/calibration/past', { params: { path: { job_id: jobId }, query: { table, index } } })),
    });

/** What two revisions differ by; the first may be the newest of another job. */
export const diffQuery = (jobId: number, first: number | null, second: number, ofJob?: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'diff', first, second, ofJob ?? 'own'],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/calibration/diff', {
                    params: { path: { job_id: jobId }, query: { second, ...(first === null ? {} : { first }), ...(ofJob === undefined ? {} : { of_job: ofJob }) } },
                }),
            ),
    });
