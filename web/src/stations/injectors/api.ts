/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';

export const injectorsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'injectors'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/injectors', { params: { path: { job_id: jobId } } })),
    });

export const supplyQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'supply'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/supply', { params: { path: { job_id: jobId } } })),
    });
