import { useEffect } from 'react';

export interface Shortcut {
    keys: string;
    does: string;
}

/** Everything that can be done by keyboard, for the help that `?` shows. */
export const SHORTCUTS: { where: string; keys: Shortcut[] }[] = [
    {
        where: 'Everywhere in a job',
        keys: [
            { keys: '?', does: 'show this list' },
            { keys: 'g then o', does: 'go to the order of work' },
            { keys: 'g then e', does: 'go to the intake: what entered the shop' },
            { keys: 'g then w', does: 'go to the wiring' },
            { keys: 'g then c', does: 'go to the trigger: crank and cam' },
            { keys: 'g then s', does: 'go to the sensors' },
            { keys: 'g then k', does: 'go to the key-on check' },
            { keys: 'g then i', does: 'go to the injectors' },
            { keys: 'g then m', does: 'go to the base maps' },
            { keys: 'g then b', does: 'go to the table bench' },
            { keys: 'g then x', does: 'go to the transfer sheet' },
            { keys: 'g then l', does: 'go to the ladder' },
            { keys: 'g then t', does: 'go to the newest trial' },
            { keys: 'g then r', does: 'record a start' },
            { keys: 'n', does: 'do the next action' },
        ],
    },
    {
        where: 'Ladder',
        keys: [
            { keys: '← ↑ ↓ →', does: 'move between cells' },
            { keys: 'Enter or a digit', does: 'type a value' },
            { keys: 'Escape', does: 'leave the cell as it was' },
            { keys: '+ and −', does: 'raise or lower the cell by one step' },
            { keys: 'u', does: 'undo the last typed change' },
            { keys: 'Shift u', does: 'redo it' },
            { keys: 'w', does: 'write the changes down as a revision' },
        ],
    },
    {
        where: 'Table bench',
        keys: [
            { keys: '← ↑ ↓ → , Shift', does: 'move; with Shift choose a region' },
            { keys: '*', does: 'choose all cells' },
            { keys: 'Enter or a digit', does: 'type a value; Tab goes on to the right' },
            { keys: '+ and −', does: 'one fine step' },
            { keys: ']  [ and }  {', does: '5 % up, down, and 10 % up, down' },
            { keys: '=  a  m', does: 'set to, add, change by percent' },
            { keys: 'i  k  x', does: 'interpolate across, down, between the corners' },
            { keys: 's  f  d', does: 'smooth, fill to the right, fill down' },
            { keys: 'l', does: 'lock or unlock cells' },
            { keys: 'j', does: 'jump to the cell nearest to a value' },
            { keys: 'Ctrl c and Ctrl v', does: 'copy to and paste from a spreadsheet' },
            { keys: 'u and Shift u', does: 'undo and redo, also after a reload' },
            { keys: 'w', does: 'write the changes down as a revision' },
        ],
    },
    {
        where: 'Wiring plan',
        keys: [
            { keys: '← ↑ ↓ →', does: 'move between the pins of a connector' },
            { keys: 'Enter', does: 'choose what is on the pin' },
        ],
    },
    {
        where: 'Trial',
        keys: [
            { keys: 'a', does: 'accept the advice' },
            { keys: 'd', does: 'decline it with a note' },
        ],
    },
];

export function isTyping(target: EventTarget | null): boolean {
    return (
        target instanceof HTMLElement &&
        (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName))
    );
}

/** Call handlers for plain keys while nobody is typing; a key pair is written "g l". */
export function useKeys(handlers: Record<string, () => void>): void {
    useEffect(() => {
        let first = '';
        let firstAt = 0;
        const listen = (event: KeyboardEvent) => {
            if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
            if (event.defaultPrevented || document.querySelector('[role=dialog]')) return;
            const pair = event.timeStamp - firstAt < 1200 && first ? `${first} ${event.key}` : '';
            const handler = handlers[pair] ?? handlers[event.key];
            first = event.key;
            firstAt = event.timeStamp;
            if (!handler) return;
            event.preventDefault();
            first = '';
            handler();
        };
        window.addEventListener('keydown', listen);
        return () => window.removeEventListener('keydown', listen);
    });
}
