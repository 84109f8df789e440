import { useMemo, useState } from 'react';

import { parseNumber } from '../../units/units';
import { drafted } from '../draft/draft';
import { keyOf } from '../draft/grid';
import { useJob } from '../jobContext';
import { useComputed } from '../useComputed';
import type { BenchOf, Drawn, Voice } from './bench';
import type { Display } from './display';
import type { Pending } from './OperationBar';
import { AMOUNT_OF, type Operation } from './operations';
import { useOperations, type Answer } from './useOperations';
import type { Selection } from './useSelection';

const NOTHING: ReadonlyMap<string, number> = new Map();

/** How much an operation shall do, in what the server takes; null while no number stands there. */
export function amountOf({ operation, amount }: Pending, display: Pick<Display, 'factor' | 'read'>): number | null {
    const kind = operation === 'paste' ? undefined : AMOUNT_OF[operation];
    if (!kind) return 0;
    const number = parseNumber(amount);
    if (number === null) return null;
    if (kind === 'share') return number / 100;
    if (kind === 'percent') return number;
    return operation === 'add' ? number / display.factor : display.read(number);
}

/** An operation that is being set up: what it would do, and doing it; nothing is done before that. */
export function usePending(of: BenchOf, drawn: Drawn, selection: Selection, voice: Voice) {
    const { job } = useJob();
    const { base, definition, draft, dispatch, now } = of;
    const { display, dimensions, saved, locked } = drawn;
    const { box } = selection;
    const [pending, setPending] = useState<Pending | null>(null);
    const work = useOperations({
        jobId: job.id,
        revision: base.revision,
        table: definition.key,
        dimensions,
        now: () => drafted(saved, definition.key, now().done),
        locked: () => now().locked[definition.key] ?? [],
        onStep: (step) => dispatch({ type: 'step', step }),
    });
    const region = { ...box, ...(dimensions < 2 ? { first_column: 0, last_column: 0 } : {}) };
    const ask = (given: Pending, number: number) =>
        given.operation === 'paste'
            ? work.paste(given.text ?? '', box.first_row, dimensions < 2 ? 0 : box.first_column, display.factor, display.offset)
            : work.operate(region, given.operation, number);
    const amount = pending ? amountOf(pending, display) : null;
    const preview = useComputed(
        `bench-${job.id}-${definition.key}-${base.revision}-${draft.done.length}`,
        pending && amount !== null ? { pending, amount, box, locked: [...locked] } : null,
        (body) => ask(body.pending, body.amount),
    );
    const isAnswer = pending !== null && amount !== null && preview.data !== undefined && !preview.isPlaceholderData;
    const answer = isAnswer ? preview.data : undefined;
    const coming = useMemo(
        () => (answer ? new Map(answer.changes.map(({ index, to }) => [keyOf(index[0] ?? 0, index[1] ?? 0), to])) : NOTHING),
        [answer],
    );
    const failed = (error: unknown) => voice.refuse(error instanceof Error ? error.message : 'That did not work.');
    const perform = (given: Pending, number: number) => {
        voice.refuse('');
        work.perform(() => ask(given, number)).then(
            ({ changes, sentence }) => voice.say(changes.length ? `Done. ${sentence}` : 'Nothing changes.'),
            failed,
        );
    };
    /** One fine step of what is chosen: as typing does, it needs nobody but the server's bounds. */
    const nudged = (cells: typeof region, by: number): Answer => {
        const grid = drafted(saved, definition.key, now().done);
        const fixed = new Set(now().locked[definition.key] ?? []);
        const changes: Answer['changes'] = [];
        for (let row = cells.first_row; row <= cells.last_row; row += 1) {
            for (let column = cells.first_column; column <= cells.last_column; column += 1) {
                const from = grid[row]?.[column];
                if (from === undefined || fixed.has(keyOf(row, column))) continue;
                const to = Number(Math.min(definition.upper, Math.max(definition.lower, from + by)).toPrecision(9));
                if (to !== from) changes.push({ index: [row, column], to });
            }
        }
        return { changes, sentence: `${changes.length} ${changes.length === 1 ? 'cell' : 'cells'} by one step.`, sentences: [], held: 0, locked: 0 };
    };
    return {
        pending, setPending, amount, answer, coming,
        error: pending && preview.error ? preview.error.message : '',
        begin: (operation: Operation) => {
            voice.say('');
            setPending({ operation, amount: operation === 'smooth' ? '50' : '' });
        },
        finish: () => {
            if (!pending || amount === null) return false;
            perform(pending, amount);
            setPending(null);
            return true;
        },
        nudgePercent: (percent: number) => perform({ operation: 'percent', amount: String(percent) }, percent),
        nudgeStep: (direction: number) => {
            voice.refuse('');
            work.perform(() => Promise.resolve(nudged(region, (direction * display.step) / display.factor))).then(
                ({ changes, sentence }) => voice.say(changes.length ? sentence : 'Nothing changes.'),
                failed,
            );
        },
        setOne: (row: number, column: number, shown: number) => {
            const only = { first_row: row, last_row: row, first_column: column, last_column: column };
            work.perform(() => work.operate(only, 'set', display.read(shown))).catch(failed);
        },
    };
}

export type PendingWork = ReturnType<typeof usePending>;
