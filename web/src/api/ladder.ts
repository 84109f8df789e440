/** What is believed of the start tables, and the chance of a good start. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from './client';

/** What is believed, what speaks for it, and the chance of a good start. */
export type Estimate = Schemas['LadderOut'];
export type Believed = Schemas['BelievedOut'];

export const estimateQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'ladder'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/ladder', { params: { path: { job_id: jobId } } })),
    });

export const pullsQuery = (jobId: number, table: string, coolantC: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'ladder', 'pulls', table, coolantC],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/ladder/pulls', {
                    params: { path: { job_id: jobId }, query: { table, coolant_c: coolantC } },
                }),
            ),
    });

export const forecastQuery = (jobId: number, coolantC: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'ladder', 'forecast', coolantC],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/ladder/forecast', {
                    params: { path: { job_id: jobId }, query: { coolant_c: coolantC } },
                }),
            ),
    });
