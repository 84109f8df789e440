/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';

export const sensorsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'sensors'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/sensors', { params: { path: { job_id: jobId } } })),
    });

export const keyOnQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'key-on'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/key-on', { params: { path: { job_id: jobId } } })),
    });

export const agreementQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'agreement'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/agreement', { params: { path: { job_id: jobId } } })),
    });
