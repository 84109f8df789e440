/** Parts that can be chosen. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap } from './client';

export const hardwareQuery = queryOptions({
    queryKey: ['hardware'],
    queryFn: () => unwrap(client.GET('/api/hardware')),
    staleTime: Infinity,
});
