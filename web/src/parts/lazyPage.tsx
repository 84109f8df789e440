import { lazy, useState, type ComponentType, type JSX } from 'react';

/** A page that is fetched when it is wanted, or before. */
export interface LazyPage {
    (): JSX.Element;
    fetch: () => Promise<unknown>;
}

/** Return a page of a module that is fetched by itself. */
export function lazyPage<K extends string>(load: () => Promise<Record<K, ComponentType>>, name: K): LazyPage {
    const here: { page: ComponentType | null } = { page: null };
    const fetch = async () => {
        here.page = (await load())[name];
        return { default: here.page };
    };
    const Later = lazy(fetch);
    // A page that is here already is shown at once: waiting for a promise that is kept costs a third of a second.
    const Page = () => {
        const [Shown] = useState<ComponentType>(() => here.page ?? Later);
        return <Shown />;
    };
    return Object.assign(Page, { fetch });
}
