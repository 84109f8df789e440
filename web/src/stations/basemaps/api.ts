/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';

export const baseMapsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'base-maps'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/base-maps', { params: { path: { job_id: jobId } } })),
    });

export const nearestQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'nearest'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/base-maps/nearest', { params: { path: { job_id: jobId } } })),
    });

export const formsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'controller-forms'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/controller-forms', { params: { path: { job_id: jobId } } })),
    });

export const transferQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'transfer'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/transfer', { params: { path: { job_id: jobId } } })),
    });
