import type { WiringLine } from '../../api/client';

/** What a wire needs beside its signal, one sentence each. */
export function lineWords(line: WiringLine): string[] {
    return [
        line.supply && `Supply: ${line.supply}.`,
        line.ground && `Ground: ${line.ground}.`,
        line.pull_up && `Pull-up: ${line.pull_up}.`,
        line.active && `Active ${line.active}.`,
        line.protection && `${line.protection[0]?.toUpperCase()}${line.protection.slice(1)}.`,
        line.relay && 'Through a relay.',
        line.note,
    ].filter((text): text is string => Boolean(text));
}
