/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';

export const sheetQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'first-start'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/first-start', { params: { path: { job_id: jobId } } })),
    });
