import { ApiProblem, client, unwrap, type Schemas } from './client';

export type Task = Schemas['TaskOut'];

const PAUSE_MS = 400;

/** Follow long work to its end: progress as it goes, then what came of it. Aborting cancels it. */
export async function followed<Result>(first: Task, onProgress: (task: Task) => void, signal: AbortSignal): Promise<Result> {
    const path = { params: { path: { task_id: first.task } } };
    let task = first;
    let isAsked = false;
    while (task.state === 'waiting' || task.state === 'running') {
        onProgress(task);
        await pause(PAUSE_MS, signal);
        if (signal.aborted && !isAsked) {
            isAsked = true;
            task = await unwrap(client.DELETE('/api/tasks/{task_id}', path));
        } else task = await unwrap(client.GET('/api/tasks/{task_id}', path));
    }
    if (task.state === 'cancelled') throw new DOMException(task.sentence, 'AbortError');
    if (task.problem) throw new ApiProblem(task.problem);
    if (task.state === 'failed') throw new Error(task.sentence);
    return task.result as Result;
}

/** Wait a moment, or until somebody aborts. */
function pause(ms: number, signal: AbortSignal): Promise<void> {
    return new Promise((resolve) => {
        if (signal.aborted) return void setTimeout(resolve, ms / 4);
        const timer = setTimeout(resolve, ms);
        signal.addEventListener('abort', () => (clearTimeout(timer), resolve()), { once: true });
    });
}
