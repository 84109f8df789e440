import { LiveLink, type Events } from '@/parts/live/link';

/** An event source that a test speaks for. */
class Speaker implements Events {
    onopen: ((event: Event) => void) | null = null;
    onerror: ((event: Event) => void) | null = null;
    readyState = 1;
    closed = false;
    private readonly heard: Record<string, (event: MessageEvent<string>) => void> = {};
    addEventListener(name: string, hear: (event: MessageEvent<string>) => void): void {
        this.heard[name] = hear;
    }
    say(name: string, data: unknown): void {
        this.heard[name]?.({ data: JSON.stringify(data) } as MessageEvent<string>);
    }
    close(): void {
        this.closed = true;
    }
}

function linked() {
    const speaker = new Speaker();
    return { speaker, link: new LiveLink('/stream', () => speaker) };
}

const parcel = (first: number, ...rpm: (number | null)[]) => ({ t0: first, first, channels: { time_s: rpm.map((_, i) => first + i), rpm } });

describe('the live link', () => {
    test('joins parcels, and leaves out what it has when it is sent again', () => {
        const { speaker, link } = linked();
        speaker.say('samples', parcel(0, 1, 2, 3));
        speaker.say('samples', parcel(1, 2, 3, 4));
        expect(link.channel('rpm')).toEqual([1, 2, 3, 4]);
        speaker.say('samples', parcel(0, 1, 2));
        expect(link.channel('rpm')).toEqual([1, 2, 3, 4]);
        expect(link.last('rpm')).toBe(4);
    });

    test('does not join rows over a gap', () => {
        const { speaker, link } = linked();
        speaker.say('samples', parcel(0, 1, 2));
        speaker.say('samples', parcel(50, null, 8));
        expect(link.channel('rpm')).toEqual([null, 8]);
        expect(link.snapshot().row).toBe(52);
    });

    test('says when it is down, when it is back, and keeps what it had', () => {
        const { speaker, link } = linked();
        let told = 0;
        link.subscribe(() => (told += 1));
        speaker.say('samples', parcel(0, 1));
        speaker.readyState = 0;
        speaker.onerror?.(new Event('error'));
        expect(link.snapshot().status).toBe('lost');
        speaker.onopen?.(new Event('open'));
        expect(link.snapshot().status).toBe('open');
        expect(link.channel('rpm')).toEqual([1]);
        expect(told).toBe(3);
    });

    test('asks again where an answer refused it, leaves out what it has, and gives up in the end', () => {
        vi.useFakeTimers();
        const speakers: Speaker[] = [];
        const link = new LiveLink('/stream', () => (speakers.push(new Speaker()), speakers[speakers.length - 1] as Speaker));
        const refuse = () => {
            const last = speakers[speakers.length - 1] as Speaker;
            last.readyState = 2;
            last.onerror?.(new Event('error'));
        };
        speakers[0]?.say('samples', parcel(0, 1, 2));
        refuse();
        expect(link.snapshot().status).toBe('lost');
        vi.advanceTimersByTime(2500);
        expect(speakers.length).toBe(2);
        speakers[1]?.onopen?.(new Event('open'));
        speakers[1]?.say('samples', parcel(0, 1, 2, 3));
        expect(link.snapshot().status).toBe('open');
        expect(link.channel('rpm')).toEqual([1, 2, 3]);
        for (let i = 0; i < 40; i += 1) {
            refuse();
            vi.advanceTimersByTime(2500);
        }
        expect(link.snapshot().status).toBe('ended');
        expect(speakers.length).toBeLessThan(40);
        link.close();
        vi.useRealTimers();
    });

    test('ends with the log, and hears no error after it', () => {
        const { speaker, link } = linked();
        speaker.say('end', { log_id: 7, sentence: 'Closed.' });
        speaker.onerror?.(new Event('error'));
        expect(link.snapshot()).toMatchObject({ status: 'ended', end: { log_id: 7 } });
        expect(speaker.closed).toBe(true);
    });

    test('holds so many rows and no more', () => {
        const { speaker, link } = linked();
        for (let i = 0; i < 10; i += 1) speaker.say('samples', parcel(400 * i, ...Array<number>(400).fill(i)));
        expect(link.channel('rpm').length).toBe(3000);
    });
});
