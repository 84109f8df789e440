/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';

export const intakeQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'intake'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/intake', { params: { path: { job_id: jobId } } })),
    });

export const reviewQuery = (jobId: number, revision?: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'review', revision ?? 'newest'],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/review', {
                    params: { path: { job_id: jobId }, query: { revision } },
                }),
            ),
    });
