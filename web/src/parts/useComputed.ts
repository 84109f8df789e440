import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';

const PAUSE_MS = 200;

/** What the server makes of something that is still being typed: asked after a short pause. */
export function useComputed<Body, Answer>(key: string, body: Body | null, ask: (body: Body) => Promise<Answer>) {
    const text = body === null ? null : JSON.stringify(body);
    const [settled, setSettled] = useState(text);
    useEffect(() => {
        const timer = setTimeout(() => setSettled(text), PAUSE_MS);
        return () => clearTimeout(timer);
    }, [text]);
    return useQuery({
        queryKey: [key, settled],
        queryFn: () => ask(JSON.parse(settled ?? 'null') as Body),
        enabled: settled !== null,
        placeholderData: keepPreviousData,
        retry: false,
        staleTime: 30_000,
    });
}
