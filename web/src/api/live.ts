/** Live sessions: their list, and what can be sent to one. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from './client';

export const liveQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'live'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/live', { params: { path: { job_id: jobId } } })),
    });

const at = (jobId: number, number: number) => ({ params: { path: { job_id: jobId, number } } });

/** What is commanded; what is not given stays. */
export type Command = Partial<Schemas['CommandIn']>;

export const openLive = (jobId: number, body: Partial<Schemas['LiveIn']>) =>
    unwrap(client.POST('/api/jobs/{job_id}/live', { params: { path: { job_id: jobId } }, body: body as Schemas['LiveIn'] }));

export const commandLive = (jobId: number, number: number, body: Command) =>
    unwrap(client.POST('/api/jobs/{job_id}/live/{number}/command', { ...at(jobId, number), body: body as Schemas['CommandIn'] }));

export const sweepLive = (jobId: number, number: number, body: Partial<Schemas['SweepDriveIn']>) =>
    unwrap(client.POST('/api/jobs/{job_id}/live/{number}/sweep', { ...at(jobId, number), body: body as Schemas['SweepDriveIn'] }));

export const countRunIn = (jobId: number, number: number, on: boolean) =>
    unwrap(client.POST('/api/jobs/{job_id}/live/{number}/run-in', { ...at(jobId, number), body: { on } }));

export const readLight = (jobId: number, number: number) => unwrap(client.POST('/api/jobs/{job_id}/live/{number}/light', at(jobId, number)));

export const keepStretch = (jobId: number, number: number, body: Schemas['KeepIn']) =>
    unwrap(client.POST('/api/jobs/{job_id}/live/{number}/keep', { ...at(jobId, number), body }));

export const closeLive = (jobId: number, number: number) => unwrap(client.POST('/api/jobs/{job_id}/live/{number}/close', at(jobId, number)));
