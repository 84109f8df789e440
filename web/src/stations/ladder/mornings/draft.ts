import type { Mornings, MorningsEntry } from '../../../api/mornings';

export type Parked = NonNullable<MorningsEntry['parked']>[number];

/** What is typed: numbers may be missing until it is saved. */
export interface Draft {
    parked: { [K in keyof Parked]: Parked[K] | (K extends 'parking' ? never : null) }[];
    minima: Record<string, number | null>;
    pasted: string;
    monthly: (number | null)[];
    stoppedAt: string;
    stopped: number | null;
    ambient: number | null;
}

const MONTHS = 12;

/** The next days by their ISO date, tomorrow first. */
export function nextDays(count: number): string[] {
    return Array.from({ length: count }, (_, i) => {
        const day = new Date();
        day.setDate(day.getDate() + i + 1);
        return localIso(day).slice(0, 10);
    });
}

/** A moment as the browser's own field for it wants it: local, to the minute. */
export function localIso(moment: Date): string {
    const shifted = new Date(moment.getTime() - moment.getTimezoneOffset() * 60_000);
    return shifted.toISOString().slice(0, 16);
}

export function draftOf(entry: Mornings): Draft {
    return {
        parked: entry.parked,
        minima: Object.fromEntries(entry.minima.map((m) => [m.day, m.minimum_c])),
        pasted: '',
        monthly: entry.monthly_c.length === MONTHS ? entry.monthly_c : Array<null>(MONTHS).fill(null),
        stoppedAt: entry.stopped_at ? localIso(new Date(entry.stopped_at)) : '',
        stopped: entry.stopped_c,
        ambient: entry.ambient_c,
    };
}

/** The entry to be sent; rows that are only half typed are left out. */
export function entryOf(draft: Draft): MorningsEntry {
    const whole = draft.parked.filter((r): r is Parked => r.stood_h !== null && r.coolant_c !== null && r.ambient_c !== null);
    const monthly = draft.monthly.filter((c): c is number => c !== null);
    return {
        parked: whole,
        minima: Object.entries(draft.minima).flatMap(([day, c]) => (c === null ? [] : [{ day, minimum_c: c }])),
        pasted: draft.pasted,
        monthly_c: monthly,
        stopped_at: draft.stoppedAt ? new Date(draft.stoppedAt).toISOString() : null,
        stopped_c: draft.stopped,
        ambient_c: draft.ambient,
    };
}
