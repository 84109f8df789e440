import { useState } from 'react';

import { drafted } from '../draft/draft';
import { keyOf } from '../draft/grid';
import type { BenchOf, Drawn, Voice } from './bench';
import { typedValue } from '../draft/typed';
import type { Selection } from './useSelection';

type Move = 'down' | 'right' | 'left' | 'stay';
const BY: Record<Move, [number, number]> = { down: [1, 0], right: [0, 1], left: [0, -1], stay: [0, 0] };
export const LOCKED = 'This cell is locked; l unlocks it.';

/** Typing into the selected cell: a value within the server's bounds becomes one step of the draft. */
export function useTyping({ definition, dispatch, now }: BenchOf, { saved, locked, display }: Drawn, selection: Selection, voice: Voice) {
    const [typing, setTyping] = useState<string | null>(null);
    const take = (to: number) => {
        const { row, column } = selection.here;
        const from = drafted(saved, definition.key, now().done)[row]?.[column] ?? selection.value;
        dispatch({ type: 'step', step: { table: definition.key, said: 'Typed', changes: [{ row, column, from, to }] } });
    };
    /** Take what was typed and go on; false where it is refused and typing goes on. */
    const commit = (text: string, move: Move): boolean => {
        const typed = typedValue(text, definition, display);
        if ('refusal' in typed) {
            voice.refuse(typed.refusal);
            if (move === 'stay') setTyping(null);
            return false;
        }
        setTyping(null);
        const { row, column } = selection.here;
        if (locked.has(keyOf(row, column))) voice.refuse(LOCKED);
        else {
            voice.refuse('');
            take(typed.value);
        }
        const by = BY[move];
        if (move !== 'stay') selection.select({ row: row + by[0], column: column + by[1] }, false);
        return true;
    };
    return { typing, setTyping, commit };
}
