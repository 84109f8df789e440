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

export const revisionsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'revisions'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/revisions', { params: { path: { job_id: jobId } } })),
    });

export const diffQuery = (jobId: number, first: number, second: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'diff', first, second],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/calibration/diff', {
                    params: { path: { job_id: jobId }, query: { first, second } },
                }),
            ),
    });
