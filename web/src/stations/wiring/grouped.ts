import type { ControllerProfile, WiringLine, WiringVocabulary } from '../../api/client';

export type Grouping = 'connector' | 'branch';

export interface LineGroup {
    title: string;
    lines: WiringLine[];
}

/** The list in groups: by plug with the feeds last, or by branch of the loom. */
export function grouped(lines: readonly WiringLine[], by: Grouping, profile: ControllerProfile, words: WiringVocabulary): LineGroup[] {
    const groups: LineGroup[] =
        by === 'branch'
            ? words.branches.map(({ key, title }) => ({ title, lines: lines.filter((line) => line.branch === key) }))
            : [
                  ...profile.connectors.map(({ name, title }) => ({ title: `${name} · ${title}`, lines: lines.filter((line) => line.connector === name) })),
                  { title: 'Feeds, ending at no pin', lines: lines.filter((line) => line.connector === '') },
              ];
    return groups.filter((group) => group.lines.length > 0);
}
