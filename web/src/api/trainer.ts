/** Training seasons: scenarios, virtual days, and how hands stand against each other. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from './client';

export type Season = Schemas['SeasonOut'];
export type SeasonIn = Schemas['SeasonIn'];
export type Scenario = Schemas['ScenarioOut'];

export const scenariosQuery = queryOptions({
    queryKey: ['scenarios'],
    queryFn: () => unwrap(client.GET('/api/trainer/scenarios')),
});

export const seasonsQuery = queryOptions({
    queryKey: ['seasons'],
    queryFn: () => unwrap(client.GET('/api/trainer/seasons')),
});

const path = (jobId: number) => ({ params: { path: { job_id: jobId } } });

export const seasonQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'season'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/season', path(jobId))),
    });

export const beginSeason = (body: SeasonIn) => unwrap(client.POST('/api/trainer/seasons', { body }));
export const crankSeason = (jobId: number, kind: Schemas['SeasonStartIn']['kind']) =>
    unwrap(client.POST('/api/jobs/{job_id}/season/starts', { ...path(jobId), body: { kind } }));
export const lookSeason = (jobId: number, cause: string) =>
    unwrap(client.POST('/api/jobs/{job_id}/season/looks', { ...path(jobId), body: { cause } }));
export const sleepSeason = (jobId: number) => unwrap(client.POST('/api/jobs/{job_id}/season/nights', path(jobId)));
export const endSeason = (jobId: number) => unwrap(client.POST('/api/jobs/{job_id}/season/end', path(jobId)));
