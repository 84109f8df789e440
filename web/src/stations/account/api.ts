/** One's own password, and tokens for programs. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from '../../api/client';

export type Token = Schemas['KnownTokenOut'];

export const tokensQuery = queryOptions({
    queryKey: ['tokens'],
    queryFn: () => unwrap(client.GET('/api/tokens')),
});

export const issueToken = (name: string) => unwrap(client.POST('/api/tokens', { body: { name } }));

export const revokeToken = (id: number) => unwrap(client.DELETE('/api/tokens/{token_id}', { params: { path: { token_id: id } } }));

export const changePassword = (body: Schemas['PasswordIn']) => unwrap(client.POST('/api/session/password', { body }));
