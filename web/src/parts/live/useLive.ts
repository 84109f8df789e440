import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState, useSyncExternalStore } from 'react';

import type { Schemas } from '../../api/client';
import { liveQuery } from '../../api/live';
import { useJob } from '../jobContext';
import { LiveLink, type LinkView } from './link';

export interface Live {
    session: Schemas['LiveSessionOut'];
    link: LiveLink;
    view: LinkView;
}

const NONE: LinkView = { status: 'connecting', state: null, end: null, row: 0 };
/** Sheets that watch the same session share one stream. */
const shared = new Map<string, { link: LiveLink; users: number }>();

function acquire(url: string): LiveLink {
    const found = shared.get(url) ?? { link: new LiveLink(url), users: 0 };
    found.users += 1;
    shared.set(url, found);
    return found.link;
}

function release(url: string): void {
    const found = shared.get(url);
    if (!found) return;
    found.users -= 1;
    if (found.users > 0) return;
    found.link.close();
    shared.delete(url);
}

function useLink(url: string | null): LiveLink | null {
    const [link, setLink] = useState<{ url: string; link: LiveLink } | null>(null);
    useEffect(() => {
        if (!url) return undefined;
        const mine = acquire(url);
        // eslint-disable-next-line react-hooks/set-state-in-effect -- the link lives as long as the effect
        setLink({ url, link: mine });
        return () => release(url);
    }, [url]);
    return link && link.url === url ? link.link : null;
}

/** The open live session of the job, as it comes in; null where none is open. */
export function useLive(): Live | null {
    const { job } = useJob();
    const sessions = useQuery(liveQuery(job.id));
    const open = sessions.data?.sessions.find(({ status }) => status === 'open') ?? null;
    const url = open ? `/api/jobs/${job.id}/live/${open.id}/stream` : null;
    const link = useLink(url);
    const nothing = useMemo(() => () => () => undefined, []);
    const view = useSyncExternalStore(link?.subscribe ?? nothing, link?.snapshot ?? (() => NONE));
    return open && link ? { session: open, link, view } : null;
}
