/** Who is signed in, and the words, units and definitions of the server. */

import { queryOptions } from '@tanstack/react-query';

import { learnUnits } from '../units/units';
import { client, unwrap } from './client';

export const sessionQuery = queryOptions({
    queryKey: ['session'],
    queryFn: () => unwrap(client.GET('/api/session')),
    // Asked once: a session that ends shows in the next refusal, without taking the sheet away.
    staleTime: Infinity,
    refetchOnWindowFocus: false,
});

export const vocabularyQuery = queryOptions({
    queryKey: ['vocabulary'],
    queryFn: async () => {
        const vocabulary = await unwrap(client.GET('/api/vocabulary'));
        learnUnits(vocabulary.units, vocabulary.conversions);
        return vocabulary;
    },
    staleTime: Infinity,
});
