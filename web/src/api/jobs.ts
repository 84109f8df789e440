/** Jobs, as the board and the shell show them. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from './client';

export const jobsQuery = queryOptions({
    queryKey: ['jobs'],
    queryFn: () => unwrap(client.GET('/api/jobs')),
});

export const jobQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}', { params: { path: { job_id: jobId } } })),
    });
