/** Passes over the fuel map: the sheet that makes them and the table bench that shows them both read these. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from './client';

export const passesQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'fuel-map'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/fuel-map', { params: { path: { job_id: jobId } } })),
    });

export const passQuery = (jobId: number, number: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'fuel-map', number],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/fuel-map/{number}', { params: { path: { job_id: jobId, number } } })),
    });

export const solvePass = (jobId: number, body: Partial<Schemas['FuelMapIn']>) =>
    unwrap(client.POST('/api/jobs/{job_id}/fuel-map', { params: { path: { job_id: jobId } }, body: body as Schemas['FuelMapIn'] }));
