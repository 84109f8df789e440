/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from '../../api/client';

export const takePass = (jobId: number, number: number, body: Schemas['TakeIn']) =>
    unwrap(client.POST('/api/jobs/{job_id}/fuel-map/{number}/accept', { params: { path: { job_id: jobId, number } }, body }));

export const driveBench = (jobId: number, body: Schemas['BenchDriveIn']) => unwrap(client.POST('/api/jobs/{job_id}/bench/drive', { params: { path: { job_id: jobId } }, body }));

export const transientsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'fuel-map', 'transients'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/fuel-map/transients', { params: { path: { job_id: jobId } } })),
    });

export const readTransients = (jobId: number, logIds: readonly number[]) =>
    unwrap(client.POST('/api/jobs/{job_id}/fuel-map/transients', { params: { path: { job_id: jobId } }, body: { log_ids: [...logIds] } }));

export const takeEnrichment = (jobId: number, number: number) =>
    unwrap(client.POST('/api/jobs/{job_id}/fuel-map/transients/{number}/accept', { params: { path: { job_id: jobId, number } } }));

export const takeCorrection = (jobId: number, number: number, key: string) =>
    unwrap(client.POST('/api/jobs/{job_id}/fuel-map/{number}/corrections/{key}', { params: { path: { job_id: jobId, number, key } } }));
