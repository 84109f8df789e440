import { ApiProblem, client, unwrap } from '@/api/client';
import { refresh } from '@/api/refresh';
import { followed, type Task } from '@/api/tasks';

import { IMPERIAL, knowUnits } from './units';
import { inUnits } from '@/units/said';

beforeAll(knowUnits);
afterEach(() => void vi.restoreAllMocks());

/** A server that answers what the test set up, in order, and fails on anything else. */
function serve(...answers: [string, object][]) {
    const asked: string[] = [];
    const ask = (method: string) => async (path: string) => {
        const what = `${method} ${path}`;
        asked.push(what);
        const next = answers.shift();
        if (next?.[0] !== what) throw new Error(`not set up: ${what}`);
        return { data: next[1], response: { ok: true, status: 200 } };
    };
    vi.spyOn(client, 'GET').mockImplementation(ask('GET') as never);
    vi.spyOn(client, 'DELETE').mockImplementation(ask('DELETE') as never);
    return asked;
}

describe('an answer', () => {
    const response = (status: number) => ({ status, ok: status < 300 }) as Response;

    test('its data, and what its sentences say', async () => {
        const data = { sentence: 'At 5 °C.', said: { sentence: { template: 'At {0}.', quantities: [{ value: 5, unit: '°C', decimals: 0, bare: false, signed: false }] } } };
        expect(await unwrap(Promise.resolve({ data, response: response(200) }))).toBe(data);
        expect(inUnits('At 5 °C.', IMPERIAL)).toBe('At 41 °F.');
    });

    test('a refusal is thrown with its sentence', async () => {
        const error = { detail: 'Give it a name.', problems: [{ field: 'name', sentence: 'Give it a name.' }] };
        const refused = unwrap(Promise.resolve({ error, response: response(422) }));
        await expect(refused).rejects.toThrow('Give it a name.');
        await expect(refused).rejects.toBeInstanceOf(ApiProblem);
    });

    test('what is no refusal of ours has a sentence, too', async () => {
        await expect(unwrap(Promise.resolve({ error: 'gateway', response: response(502) }))).rejects.toThrow('502');
    });

    test('no answer at all', async () => {
        await expect(unwrap(Promise.reject(new TypeError('fetch failed')))).rejects.toThrow('does not answer');
    });
});

describe('what a change makes stale', () => {
    const asked = async (...changed: Parameters<typeof refresh> extends [unknown, unknown, ...infer Rest] ? Rest : never) => {
        const keys: unknown[] = [];
        const client = { invalidateQueries: (filter: { queryKey: unknown[]; exact?: boolean }) => (keys.push([...filter.queryKey, filter.exact ? 'exact' : '']), Promise.resolve()) };
        await refresh(client as never, 7, ...changed);
        return keys;
    };

    test('board and job always, and only themselves', async () => {
        expect(await asked()).toEqual([
            ['jobs', 'board', ''],
            ['jobs', 7, 'exact'],
        ]);
    });

    test('a trial leaves the wiring alone', async () => {
        const keys = (await asked('trials')).map((key) => (key as string[])[2]);
        expect(keys).toContain('trials');
        expect(keys).not.toContain('wiring');
        expect(keys).not.toContain('calibration');
    });

    test('no other job is fetched again', async () => {
        for (const [root, job] of (await asked('tables', 'injectors', 'wiring')) as [string, unknown][]) {
            expect(root).toBe('jobs');
            expect(['board', 7]).toContain(job);
        }
    });

    test('each key once, though two changes name it', async () => {
        const keys = (await asked('wiring', 'sensors', 'injectors')).map((key) => JSON.stringify(key));
        expect(new Set(keys).size).toBe(keys.length);
    });
});

describe('long work that is followed', () => {
    const task = (state: Task['state'], more: Partial<Task> = {}): Task => ({ task: 5, kind: 'capture', state, share: 0.5, sentence: 'Reading.', result: null, problem: null, ...more });
    const never = new AbortController().signal;

    beforeEach(() => void vi.useFakeTimers({ shouldAdvanceTime: true, advanceTimeDelta: 200 }));
    afterEach(() => void vi.useRealTimers());

    test('progress, then what came of it', async () => {
        const asked = serve(['GET /api/tasks/{task_id}', task('running', { share: 0.9 })], ['GET /api/tasks/{task_id}', task('done', { result: { capture: 3 } })]);
        const shares: number[] = [];
        expect(await followed(task('waiting', { share: 0 }), ({ share }) => shares.push(share), never)).toEqual({ capture: 3 });
        expect(shares).toEqual([0, 0.9]);
        expect(asked).toHaveLength(2);
    });

    test('what is done at once is not asked for', async () => {
        const asked = serve();
        expect(await followed(task('done', { result: 1 }), () => undefined, never)).toBe(1);
        expect(asked).toEqual([]);
    });

    test('a refusal', async () => {
        const problem = { type: 'about:blank', title: 'Input refused', status: 422, detail: 'There is no edge in it.', problems: [], extra: {} };
        await expect(followed(task('failed', { problem }), () => undefined, never)).rejects.toThrow('no edge');
    });

    test('a server that was stopped', async () => {
        await expect(followed(task('failed', { sentence: 'Begin again.' }), () => undefined, never)).rejects.toThrow('Begin again.');
    });

    test('aborting cancels it, once', async () => {
        const stop = new AbortController();
        const asked = serve(['DELETE /api/tasks/{task_id}', task('running')], ['GET /api/tasks/{task_id}', task('cancelled', { sentence: 'Cancelled; nothing was written.' })]);
        const work = followed(task('running'), () => stop.abort(), stop.signal);
        await expect(work).rejects.toThrow('nothing was written');
        expect(asked).toEqual(['DELETE /api/tasks/{task_id}', 'GET /api/tasks/{task_id}']);
    });
});
