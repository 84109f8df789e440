import createClient from 'openapi-fetch';

import { learnSaid } from '../units/said';
import type { components, paths } from './schema';

/** The typed client reads a pair as an array of any length; so do the names for its shapes. */
type Plain<T> = T extends (infer E)[] ? Plain<E>[] : T extends object ? { [K in keyof T]: Plain<T[K]> } : T;

export type Schemas = Plain<components['schemas']>;
export type Job = Schemas['JobOut'];
export type Trial = Schemas['TrialOut'];
export type TrialRow = Schemas['TrialRowOut'];
export type Log = Schemas['LogOut'];
export type Table = Schemas['TableOut'];
export type Calibration = Schemas['CalibrationOut'];
export type RevisionRow = Schemas['RevisionRowOut'];
export type Vocabulary = Schemas['VocabularyOut'];
export type CellChange = Schemas['CellChangeOut'];
export type Sensor = Schemas['SensorEntry'];
export type SensorRow = Schemas['SensorOut'];
export type KeyOnCheck = Schemas['KeyOnCheckOut'];
export type Injectors = Schemas['InjectorEntry'];
export type Supply = Schemas['SupplyEntry'];
export type Hardware = Schemas['HardwareOut'];
export type Wiring = Schemas['WiringOut'];
export type PlanEntry = Schemas['PlanEntry'];
export type Fitting = Schemas['Fitting'];
export type WiringLine = Schemas['WiringLine'];
export type WiringPlan = Schemas['WiringPlan'];
export type ControllerProfile = Schemas['ControllerProfile'];
export type WiringVocabulary = Schemas['WiringVocabularyOut'];
export type TriggerEntry = Schemas['TriggerEntry'];
export type Capture = Schemas['CaptureOut'];
export type Problem = Schemas['Problem'];

/** A refusal by the server, with its sentence and fields. */
export class ApiProblem extends Error {
    readonly problem: Problem;

    constructor(problem: Problem) {
        super(problem.detail);
        this.problem = problem;
    }

    /** The sentence about one field, if the server named it; nested names match by their end. */
    field(name: string): string | undefined {
        return this.problem.problems?.find(
            (entry) => entry.field === name || entry.field.endsWith(`.${name}`),
        )?.sentence;
    }
}

export function csrfToken(): string {
    return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? '';
}

export const client = createClient<paths>({ baseUrl: '/' });

client.use({
    onRequest({ request }) {
        if (request.method !== 'GET') request.headers.set('X-CSRFToken', csrfToken());
        return request;
    },
});

const UNREACHABLE: Problem = {
    type: 'about:blank',
    title: 'No answer',
    status: 0,
    detail: 'The server does not answer. Is it still running? Nothing you typed is lost.',
};

interface Answer<T> {
    data?: T;
    error?: unknown;
    response: Response;
}

/** Return the data of a request, or throw the server's problem. */
export async function unwrap<T>(request: Promise<Answer<T>>): Promise<T> {
    let answer: Answer<T>;
    try {
        answer = await request;
    } catch {
        throw new ApiProblem(UNREACHABLE);
    }
    learnSaid(answer.data ?? answer.error);
    if (answer.response.ok) return answer.data as T;
    const problem = answer.error as Problem | undefined;
    throw new ApiProblem(
        problem && typeof problem === 'object' && 'detail' in problem
            ? problem
            : {
                  type: 'about:blank',
                  title: 'Request refused',
                  status: answer.response.status,
                  detail: `The server answered ${answer.response.status}.`,
              },
    );
}
