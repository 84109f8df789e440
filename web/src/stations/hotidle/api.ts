/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { keepPreviousData, queryOptions } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';

export const idleQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'idle'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/idle', { params: { path: { job_id: jobId } } })),
    });

export const sparkQuery = (jobId: number, lopey: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'idle', 'spark', lopey],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/idle/spark', { params: { path: { job_id: jobId }, query: { lopey } } })),
        placeholderData: keepPreviousData,
    });

export const idleRulesQuery = queryOptions({
    queryKey: ['idle-rules'],
    queryFn: () => unwrap(client.GET('/api/idle/rules')),
    staleTime: Infinity,
});
