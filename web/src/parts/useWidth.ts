import { useLayoutEffect, useState } from 'react';

/** Letters of every chart have this size, however wide it is drawn. */
export const CHART_LETTERS_PX = 13;

/**
 * How wide an element is on the screen, so that a picture can be drawn in its own pixels: what is stretched
 * to fit has other letters at every width.
 */
export function useWidth(before: number): readonly [(element: Element | null) => void, number] {
    const [element, setElement] = useState<Element | null>(null);
    const [width, setWidth] = useState(before);
    useLayoutEffect(() => {
        if (!element) return;
        const look = () => {
            const now = Math.round(element.getBoundingClientRect().width);
            if (now > 0) setWidth(now);
        };
        look();
        const observer = new ResizeObserver(look);
        observer.observe(element);
        return () => observer.disconnect();
    }, [element]);
    return [setElement, width];
}
