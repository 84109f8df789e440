/** Jobs, as the board and the shell show them. */

import { keepPreviousData, queryOptions } from '@tanstack/react-query';

import { client, unwrap } from './client';

/** What of the board is asked for. */
export interface BoardPart {
    search: string;
    aside: boolean;
    offset: number;
}

/** Jobs on one page of the board. */
export const PAGE = 50;

export const jobsQuery = (part: BoardPart) =>
    queryOptions({
        // One more than a page holds says whether there is another.
        queryKey: ['jobs', 'board', part],
        queryFn: () => unwrap(client.GET('/api/jobs', { params: { query: { ...part, limit: PAGE + 1 } } })),
        placeholderData: keepPreviousData,
    });

export const jobQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}', { params: { path: { job_id: jobId } } })),
    });
