import { useRef } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import type { Step } from '../draft/draft';
import { cellAt, nested, type Grid } from '../draft/grid';

interface Context {
    jobId: number;
    revision: number;
    table: string;
    dimensions: number;
    /** The grid as it is now, whatever was drawn last. */
    now: () => Grid;
    locked: () => string[];
    onStep: (step: Step) => void;
}

export type Answer = Schemas['OperatedOut'];

/** Ask the server what something would do, one request after the other, on the newest values. */
export function useOperations(context: Context) {
    const queue = useRef<Promise<unknown>>(Promise.resolve());
    const draft = () => ({
        revision: context.revision,
        table: context.table,
        values: nested(context.now(), context.dimensions),
        locked: context.locked().map((key) => key.split('.').map(Number).slice(0, Math.max(1, context.dimensions))),
    });
    const path = { params: { path: { job_id: context.jobId } } };
    const operate = (region: Schemas['Region'], operation: Schemas['OperateIn']['operation'], amount: number) =>
        unwrap(client.POST('/api/jobs/{job_id}/table-bench/operate', { ...path, body: { ...draft(), region, operation, amount } }));
    const paste = (text: string, row: number, column: number, factor: number, offset: number) =>
        unwrap(client.POST('/api/jobs/{job_id}/table-bench/paste', { ...path, body: { ...draft(), row, column, text, factor, offset } }));
    /** Do it: each waits for the one before, so that quick keys do not lose a step. */
    const perform = (ask: () => Promise<Answer>): Promise<Answer> => {
        const next = queue.current.then(ask).then((answer) => {
            const grid = context.now();
            const changes = answer.changes.map((change) => {
                const cell = cellAt(change.index);
                return { ...cell, from: grid[cell.row]?.[cell.column] ?? change.to, to: change.to };
            });
            context.onStep({ table: context.table, said: answer.sentence, changes });
            return answer;
        });
        queue.current = next.catch(() => undefined);
        return next;
    };
    return { operate, paste, perform };
}
