/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from '../../api/client';
import { multipart } from '../../api/multipart';

const at = (jobId: number) => ({ params: { path: { job_id: jobId } } });

export const pullsQuery = (jobId: number) =>
    queryOptions({ queryKey: ['jobs', jobId, 'pulls'], queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/pulls', at(jobId))) });

export const pullQuery = (jobId: number, number: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'pulls', number],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/pulls/{number}', { params: { path: { job_id: jobId, number } } })),
    });

export const staircaseQuery = (jobId: number) =>
    queryOptions({ queryKey: ['jobs', jobId, 'pulls', 'boost'], queryFn: () => unwrap(client.POST('/api/jobs/{job_id}/pulls/boost', { ...at(jobId), body: { note: '' } })), retry: false });

export const dipsQuery = (jobId: number, numbers: readonly number[]) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'pulls', 'dips', ...numbers],
        queryFn: () => unwrap(client.POST('/api/jobs/{job_id}/pulls/dips', { ...at(jobId), body: { numbers: [...numbers] } })),
        enabled: numbers.length > 0,
    });

/** Pulls without knock, from which its floor is learned, and what was heard. */
export type KnockAsked = Schemas['KnockIn'];

export const knockQuery = (jobId: number, body: KnockAsked) =>
    queryOptions({ queryKey: ['jobs', jobId, 'pulls', 'knock', body], queryFn: () => unwrap(client.POST('/api/jobs/{job_id}/pulls/knock', { ...at(jobId), body })) });

export const saveLimits = (jobId: number, limits: Schemas['PullLimits']) => unwrap(client.POST('/api/jobs/{job_id}/pulls/limits', { ...at(jobId), body: { limits } }));

export const tickCheck = (jobId: number, key: string, note: string) =>
    unwrap(client.POST('/api/jobs/{job_id}/pulls/checks/{key}', { params: { path: { job_id: jobId, key } }, body: { note } }));

export const openAgain = (jobId: number, reason: string) => unwrap(client.POST('/api/jobs/{job_id}/pulls/reason', { ...at(jobId), body: { reason } }));

export const setAside = (jobId: number, number: number, reason: string) =>
    unwrap(client.POST('/api/jobs/{job_id}/pulls/{number}/aside', { params: { path: { job_id: jobId, number } }, body: { reason } }));

export const pullsInLog = (jobId: number, logId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'logs', logId, 'pulls'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/pulls/in-log/{log_id}', { params: { path: { job_id: jobId, log_id: logId } } })),
    });

export const pointsQuery = (jobId: number, body: Partial<Schemas['PullPlanIn']>) =>
    queryOptions({ queryKey: ['jobs', jobId, 'pulls', 'points', body], queryFn: () => unwrap(client.POST('/api/jobs/{job_id}/pulls/plan', { ...at(jobId), body: body as Schemas['PullPlanIn'] })), placeholderData: (before) => before, retry: false });

type Conditions = Schemas['Conditions'];

export const keepFromLog = (jobId: number, logId: number, stretch: Schemas['PullStretch'], conditions: Conditions, vehicle: Schemas['Vehicle'] | null) =>
    unwrap(client.POST('/api/jobs/{job_id}/pulls/from-log', { ...at(jobId), body: { log_id: logId, begin_s: stretch.begin_s, end_s: stretch.end_s, conditions, vehicle } }));

export const keepTyped = (jobId: number, points: [number, number][], conditions: Conditions) =>
    unwrap(client.POST('/api/jobs/{job_id}/pulls/typed', { ...at(jobId), body: { points, conditions } }));

export const keepFile = (jobId: number, file: File, correctedBy: string, conditions: Conditions) =>
    unwrap(client.POST('/api/jobs/{job_id}/pulls/from-file', { ...at(jobId), ...multipart({ file, conditions: JSON.stringify(conditions), corrected_by: correctedBy }) }));

export const driveBenchPull = (jobId: number, body: Partial<Schemas['BenchPullIn']>) =>
    unwrap(client.POST('/api/jobs/{job_id}/pulls/bench', { ...at(jobId), body: body as Schemas['BenchPullIn'] }));

export const comparePulls = (jobId: number, body: Partial<Schemas['CompareIn']> & { a: number[]; b: number[] }) =>
    unwrap(client.POST('/api/jobs/{job_id}/pulls/compare', { ...at(jobId), body: body as Schemas['CompareIn'] }));

export const planPulls = (jobId: number, each: number) => unwrap(client.POST('/api/jobs/{job_id}/pulls/plan', { ...at(jobId), body: { each } as Schemas['PullPlanIn'] }));

export const takeBoost = (jobId: number, targetKpa: number) => unwrap(client.POST('/api/jobs/{job_id}/pulls/boost/take', { ...at(jobId), body: { target_kpa: targetKpa } }));

export const takeKnock = (jobId: number, body: KnockAsked) => unwrap(client.POST('/api/jobs/{job_id}/pulls/knock/take', { ...at(jobId), body }));

export const fitSpark = (jobId: number, points: Schemas['SparkPoint'][], fuel: string, knocks_from_deg: number | null) => unwrap(client.POST('/api/jobs/{job_id}/pulls/spark', { ...at(jobId), body: { points, fuel, knocks_from_deg } }));

export const camSwitch = (jobId: number, low: number[], high: number[]) => unwrap(client.POST('/api/jobs/{job_id}/pulls/cams', { ...at(jobId), body: { low, high } }));

export const takeCams = (jobId: number, low: number[], high: number[]) => unwrap(client.POST('/api/jobs/{job_id}/pulls/cams/take', { ...at(jobId), body: { low, high } }));

export const solveFullLoad = (jobId: number, numbers: readonly number[]) => unwrap(client.POST('/api/jobs/{job_id}/pulls/full-load', { ...at(jobId), body: { numbers: [...numbers] } }));
