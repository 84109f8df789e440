/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { keepPreviousData, queryOptions } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';

export const operationsQuery = queryOptions({
    queryKey: ['table-bench'],
    queryFn: () => unwrap(client.GET('/api/table-bench')),
    staleTime: Infinity,
});

export const evidenceQuery = (jobId: number, table: string) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'evidence', table],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/table-bench/evidence', {
                    params: { path: { job_id: jobId }, query: { table } },
                }),
            ),
    });

export const whyQuery = (jobId: number, table: string, at: number[]) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'why', table, at],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/base-maps/why', {
                    params: { path: { job_id: jobId }, query: { table, at } },
                }),
            ),
        placeholderData: keepPreviousData,
        retry: false,
    });
