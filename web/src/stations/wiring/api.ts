/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';

export const wiringQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'wiring'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/wiring', { params: { path: { job_id: jobId } } })),
    });

export const outputsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'outputs'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/outputs', { params: { path: { job_id: jobId } } })),
    });

export const threeWireQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'three-wire'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/three-wire', { params: { path: { job_id: jobId } } })),
    });

export const wiringVocabularyQuery = queryOptions({
    queryKey: ['wiring-vocabulary'],
    queryFn: () => unwrap(client.GET('/api/wiring-vocabulary')),
    staleTime: Infinity,
});

export const controllersQuery = queryOptions({
    queryKey: ['controllers'],
    queryFn: () => unwrap(client.GET('/api/controllers')),
});
