/** One stream of a live session: what came lately, where it stands, and whether the link holds. No React. */

import type { Schemas } from '../../api/client';
import { learnSaid } from '../../units/said';

export type LinkStatus = 'connecting' | 'open' | 'lost' | 'ended';

export interface Parcel {
    t0: number;
    /** Number of its first row in the session. */
    first: number;
    channels: Record<string, (number | null)[]>;
}

export interface LinkView {
    status: LinkStatus;
    state: Schemas['StateOut'] | null;
    end: { log_id: number | null; sentence: string } | null;
    /** Rows that were let in so far; changes with every parcel. */
    row: number;
}

/** What a browser's EventSource is used for. */
export interface Events {
    addEventListener(name: string, heard: (event: MessageEvent<string>) => void): void;
    onopen: ((event: Event) => void) | null;
    onerror: ((event: Event) => void) | null;
    readonly readyState: number;
    close(): void;
}

const MOST_ROWS = 3000;
const CLOSED = 2;
/** A stream that was refused, by a server that is being restarted, is asked for again: after so long [ms], so often. */
const AGAIN_MS = 2000;
const MOST_ATTEMPTS = 30;

export class LiveLink {
    private view: LinkView = { status: 'connecting', state: null, end: null, row: 0 };
    private readonly heard = new Set<() => void>();
    private events: Events;
    private columns: Record<string, (number | null)[]> = {};
    private refused = 0;
    private again: ReturnType<typeof setTimeout> | undefined;

    constructor(
        private readonly url: string,
        private readonly open: (url: string) => Events = (address) => new EventSource(address),
    ) {
        this.events = this.listen();
    }

    private listen(): Events {
        const events = this.open(this.url);
        events.onopen = () => {
            this.refused = 0;
            this.change({ status: 'open' });
        };
        events.onerror = () => this.broken(events);
        events.addEventListener('samples', (event) => this.admit(JSON.parse(event.data) as Parcel));
        events.addEventListener('state', (event) => {
            const state = JSON.parse(event.data) as Schemas['StateOut'];
            learnSaid(state);
            this.change({ status: 'open', state });
        });
        events.addEventListener('end', (event) => {
            events.close();
            this.change({ status: 'ended', end: JSON.parse(event.data) as LinkView['end'] });
        });
        return events;
    }

    /** The browser comes back by itself from a link that broke, and says where it stood; not from an answer that refused it. */
    private broken(events: Events): void {
        if (this.view.status === 'ended') return;
        const gone = events.readyState === CLOSED;
        if (gone && this.refused >= MOST_ATTEMPTS) {
            this.change({ status: 'ended' });
            return;
        }
        this.change({ status: 'lost' });
        if (!gone) return;
        this.refused += 1;
        this.again = setTimeout(() => {
            this.events = this.listen();
        }, AGAIN_MS);
    }

    readonly subscribe = (hear: () => void): (() => void) => {
        this.heard.add(hear);
        return () => this.heard.delete(hear);
    };

    readonly snapshot = (): LinkView => this.view;

    /** A channel's newest values; empty where the session has none. */
    channel(name: string): readonly (number | null)[] {
        return this.columns[name] ?? [];
    }

    /** The newest value of a channel. */
    last(name: string): number | null {
        return this.columns[name]?.at(-1) ?? null;
    }

    close(): void {
        clearTimeout(this.again);
        this.events.close();
        this.heard.clear();
    }

    /** Take a state that came with an answer: it is newer than what the stream has told. */
    told(state: Schemas['StateOut']): void {
        this.change({ state });
    }

    private admit(parcel: Parcel): void {
        const count = parcel.channels.time_s?.length ?? 0;
        const known = this.view.row;
        // What was sent again after a break is left out; after a gap the old rows would not join.
        const skip = Math.max(0, known - parcel.first);
        if (skip >= count && known > 0) return;
        if (parcel.first > known) this.columns = {};
        for (const [name, values] of Object.entries(parcel.channels)) {
            this.columns[name] = [...(this.columns[name] ?? []), ...values.slice(skip)].slice(-MOST_ROWS);
        }
        this.change({ row: parcel.first + count });
    }

    private change(part: Partial<LinkView>): void {
        this.view = { ...this.view, ...part };
        this.heard.forEach((hear) => hear());
    }
}
