import { useEffect } from 'react';

export interface Shortcut {
    keys: string;
    does: string;
}

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
