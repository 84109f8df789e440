/** When the engine is cold right through, and what each coming morning is good for. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from './client';

export type Mornings = Schemas['MorningsOut'];
export type MorningsEntry = Schemas['MorningsIn'];

export const morningsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'mornings'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/mornings', { params: { path: { job_id: jobId } } })),
    });

export const readyQuery = queryOptions({
    queryKey: ['ready'],
    queryFn: () => unwrap(client.GET('/api/mornings/ready')),
});

export const saveMornings = (jobId: number, entry: MorningsEntry) =>
    unwrap(client.POST('/api/jobs/{job_id}/mornings', { params: { path: { job_id: jobId } }, body: entry }));
