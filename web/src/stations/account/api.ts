/** One's own password, who works here, and tokens for programs. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from '../../api/client';

export type Token = Schemas['KnownTokenOut'];

export const tokensQuery = queryOptions({
    queryKey: ['tokens'],
    queryFn: () => unwrap(client.GET('/api/tokens')),
});

export const issueToken = (name: string) => unwrap(client.POST('/api/tokens', { body: { name } }));

export const revokeToken = (id: number) => unwrap(client.DELETE('/api/tokens/{token_id}', { params: { path: { token_id: id } } }));

export type Person = Schemas['PersonOut'];
export type NewPerson = Schemas['PersonIn'];
export type Role = Schemas['Role'];
export type RoleChoices = Schemas['PeopleOut']['roles'];

export const peopleQuery = queryOptions({
    queryKey: ['people'],
    queryFn: () => unwrap(client.GET('/api/people')),
});

export const takeIn = (body: NewPerson) => unwrap(client.POST('/api/people', { body }));

export const giveRole = ({ id, role }: { id: number; role: Role }) =>
    unwrap(client.POST('/api/people/{person_id}/role', { params: { path: { person_id: id } }, body: { role } }));

export const letGo = (id: number) => unwrap(client.DELETE('/api/people/{person_id}', { params: { path: { person_id: id } } }));

export const changePassword = (body: Schemas['PasswordIn']) => unwrap(client.POST('/api/session/password', { body }));
