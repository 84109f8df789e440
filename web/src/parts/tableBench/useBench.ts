import { useRef, useState, type ClipboardEvent, type KeyboardEvent } from 'react';

import { formatNumber, parseNumber } from '../../units/units';
import { keyOf, type Cell } from '../draft/grid';
import type { BenchOf, Voice } from './bench';
import { keyMeans, type KeyMeans } from './keys';
import { useDrawn } from './useDrawn';
import { usePending } from './usePending';
import { nearestCell, useSelection } from './useSelection';
import { LOCKED, useTyping } from './useTyping';

const MOST_PASTED = 450_000;

/** Everything the bench holds and can do; the views only draw it. */
export function useBench(of: BenchOf) {
    const { definition, dispatch } = of;
    const { drawn, isCanonical, setCanonical } = useDrawn(of);
    const { grid, display, locked } = drawn;
    const voice = useVoice();
    const selection = useSelection(grid);
    const work = usePending(of, drawn, selection, voice);
    const typing = useTyping(of, drawn, selection, voice);
    const [jump, setJump] = useState<string | null>(null);
    const sheet = useRef<HTMLDivElement>(null);
    const focus = () => sheet.current?.querySelector<HTMLElement>('[role=grid]')?.focus({ preventScroll: true });
    const select = (cell: Cell, extend: boolean) => {
        selection.select(cell, extend);
        voice.refuse('');
    };
    const finish = () => {
        if (work.finish()) focus();
    };
    const lock = () => {
        const cells = selection.cells();
        dispatch({ type: 'lock', table: definition.key, cells, on: !cells.every((cell) => locked.has(cell)) });
    };
    const jumpTo = (text: string) => {
        const number = parseNumber(text);
        setJump(null);
        focus();
        if (number === null) return voice.refuse(`“${text}” is not a number.`);
        const best = nearestCell(grid, number, display.show, selection.here);
        select(best, false);
        voice.say(`The nearest to ${text} ${display.unit} is ${formatNumber(display.show(grid[best.row]?.[best.column] ?? 0), display.decimals)}.`);
    };
    const act = (means: KeyMeans, extend: boolean) => {
        switch (means.does) {
            case 'move':
                return select({ row: selection.here.row + means.by[0], column: selection.here.column + means.by[1] }, extend);
            case 'begin':
                return work.begin(means.operation);
            case 'percent':
                return work.nudgePercent(means.percent);
            case 'step':
                return work.nudgeStep(means.direction);
            case 'type':
                return typing.setTyping(means.text);
            case 'enter':
                return work.pending ? finish() : typing.setTyping(formatNumber(display.show(selection.value), display.decimals));
            case 'leave':
                return work.pending ? work.setPending(null) : select(selection.here, false);
            case 'all':
                return selection.selectAll();
            case 'lock':
                return lock();
            case 'jump':
                return setJump('');
            case 'undo':
            case 'redo':
                return dispatch({ type: means.does });
        }
    };
    const onKey = (event: KeyboardEvent) => {
        const means = keyMeans(event);
        if (!means || (typing.typing !== null && means.does !== 'undo' && means.does !== 'redo')) return;
        event.preventDefault();
        event.stopPropagation();
        act(means, event.shiftKey);
    };
    const onCopy = (event: ClipboardEvent) => {
        if (typing.typing !== null) return;
        const { box, count } = selection;
        const plain = (cell: number) => String(Number(display.show(cell).toFixed(display.decimals)));
        const lines = grid.slice(box.first_row, box.last_row + 1).map((line) => line.slice(box.first_column, box.last_column + 1).map(plain).join('\t'));
        event.clipboardData.setData('text/plain', lines.join('\n'));
        event.preventDefault();
        voice.say(`${count} ${count === 1 ? 'cell' : 'cells'} copied in ${display.unit || 'plain numbers'}.`);
    };
    const onPaste = (event: ClipboardEvent) => {
        if (typing.typing !== null) return;
        event.preventDefault();
        voice.say('');
        work.setPending({ operation: 'paste', amount: '', text: event.clipboardData.getData('text').slice(0, MOST_PASTED) });
    };
    const movePoint = (cell: Cell, shown: number) => {
        if (locked.has(keyOf(cell.row, cell.column))) voice.refuse(LOCKED);
        else work.setOne(cell.row, cell.column, shown);
    };
    const handlers = {
        region: selection.region,
        typing: typing.typing,
        coming: work.coming,
        onSelect: select,
        onTyping: (text: string | null) => {
            typing.setTyping(text);
            if (text === null) focus();
        },
        onCommit: (text: string, move: 'down' | 'right' | 'left' | 'stay') => {
            if (typing.commit(text, move)) focus();
        },
        onKey,
        onCopy,
        onPaste,
    };
    return { drawn, isCanonical, setCanonical, voice, selection, select, work, jump, setJump, jumpTo, sheet, focus, finish, movePoint, handlers };
}

function useVoice(): Voice {
    const [said, say] = useState('');
    const [refusal, refuse] = useState('');
    return { said, refusal, say, refuse };
}

/** What stands in the bar: what would happen, what happened, or what the table is. */
export function sentenceOf({ work, voice }: Pick<ReturnType<typeof useBench>, 'work' | 'voice'>, meaning: string): string {
    if (!work.pending) return voice.said || meaning;
    if (work.amount === null) return 'Type how much; Enter does it, Escape leaves it.';
    return work.answer?.sentence ?? 'Working it out …';
}
