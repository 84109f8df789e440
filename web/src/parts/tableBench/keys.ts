import { OPERATION_KEYS, type Operation } from './operations';

/** What a key means on the sheet. */
export type KeyMeans =
    | { does: 'move'; by: [number, number] }
    | { does: 'begin'; operation: Operation }
    | { does: 'percent'; percent: number }
    | { does: 'step'; direction: number }
    | { does: 'type'; text: string }
    | { does: 'enter' | 'leave' | 'all' | 'lock' | 'jump' | 'undo' | 'redo' };

const FAR = 1e6;
const MOVES: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
    PageUp: [-8, 0],
    PageDown: [8, 0],
    Home: [0, -FAR],
    End: [0, FAR],
};
const PERCENT: Record<string, number> = { ']': 5, '[': -5, '}': 10, '{': -10 };
const PLAIN: Record<string, KeyMeans> = {
    Enter: { does: 'enter' },
    Escape: { does: 'leave' },
    '*': { does: 'all' },
    '+': { does: 'step', direction: 1 },
    '-': { does: 'step', direction: -1 },
    l: { does: 'lock' },
    j: { does: 'jump' },
    u: { does: 'undo' },
    U: { does: 'redo' },
};
const OPERATIONS = Object.fromEntries(Object.entries(OPERATION_KEYS).map(([operation, key]) => [key, operation as Operation]));

/** The meaning of a key; undefined where it has none here. */
export function keyMeans({ key, ctrlKey, metaKey, altKey, shiftKey }: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>): KeyMeans | undefined {
    if ((ctrlKey || metaKey) && key.toLowerCase() === 'z') return { does: shiftKey ? 'redo' : 'undo' };
    if (ctrlKey || metaKey || altKey) return undefined;
    const by = MOVES[key];
    if (by) return { does: 'move', by };
    const operation = OPERATIONS[key];
    if (operation) return { does: 'begin', operation };
    const percent = PERCENT[key];
    if (percent !== undefined) return { does: 'percent', percent };
    return PLAIN[key] ?? (/^[0-9.,]$/.test(key) ? { does: 'type', text: key } : undefined);
}
