/** What is believed of the start tables, and the chance of a good start. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from './client';

export type Estimate = Schemas['EstimateOut'];

export const estimateQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'estimate'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/estimate', { params: { path: { job_id: jobId } } })),
    });

export const pullsQuery = (jobId: number, table: string, coolantC: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'estimate', 'pulls', table, coolantC],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/estimate/pulls', {
                    params: { path: { job_id: jobId }, query: { table, coolant_c: coolantC } },
                }),
            ),
    });

export const forecastQuery = (jobId: number, coolantC: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'estimate', 'forecast', coolantC],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/estimate/forecast', {
                    params: { path: { job_id: jobId }, query: { coolant_c: coolantC } },
                }),
            ),
    });
