import { useCallback, useLayoutEffect, useRef } from 'react';

/** A function that never changes and always does what the newest one does: what gets it need not be drawn anew. */
export function useLatest<Arguments extends unknown[], Result>(act: (...given: Arguments) => Result): (...given: Arguments) => Result {
    const latest = useRef(act);
    useLayoutEffect(() => {
        latest.current = act;
    });
    return useCallback((...given: Arguments) => latest.current(...given), []);
}
