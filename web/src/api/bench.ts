/** What the bench engine can do. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from './client';

export const benchQuery = queryOptions({
    queryKey: ['bench'],
    queryFn: () => unwrap(client.GET('/api/bench')),
    staleTime: Infinity,
});
