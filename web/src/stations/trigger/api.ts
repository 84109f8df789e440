/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { keepPreviousData, queryOptions } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';

export const triggerQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'trigger'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/trigger', { params: { path: { job_id: jobId } } })),
    });

export const capturesQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'captures'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/captures', { params: { path: { job_id: jobId } } })),
    });

export const timingQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'timing'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/timing', { params: { path: { job_id: jobId } } })),
    });

export const dwellQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'dwell'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/dwell', { params: { path: { job_id: jobId } } })),
    });

export const outputTestsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'output-tests'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/output-tests', { params: { path: { job_id: jobId } } })),
    });

export const ribbonQuery = (jobId: number, number: number, startS: number, spanS: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'captures', number, 'ribbon', startS, spanS],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/captures/{number}/ribbon', {
                    params: { path: { job_id: jobId, number }, query: { start_s: startS, span_s: spanS } },
                }),
            ),
        staleTime: Infinity,
        placeholderData: keepPreviousData,
    });
