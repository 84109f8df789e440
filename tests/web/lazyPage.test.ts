import { createElement, type ComponentType } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';

import { lazyPage } from '@/parts/lazyPage';

const Sheet: ComponentType = () => createElement('h1', null, 'Sheet');

describe('a page that is fetched by itself', () => {
    test('is fetched when it is asked for, and not before', async () => {
        let fetched = 0;
        const page = lazyPage(() => {
            fetched += 1;
            return Promise.resolve({ Sheet });
        }, 'Sheet');
        expect(fetched).toBe(0);
        await page.fetch();
        expect(fetched).toBe(1);
    });

    test('that is here already is shown at once', async () => {
        const page = lazyPage(() => Promise.resolve({ Sheet }), 'Sheet');
        await page.fetch();
        expect(renderToStaticMarkup(createElement(page))).toBe('<h1>Sheet</h1>');
    });

    test('that is not here yet waits', () => {
        const page = lazyPage(() => new Promise<{ Sheet: ComponentType }>(() => undefined), 'Sheet');
        expect(() => renderToStaticMarkup(createElement(page))).toThrow();
    });

    test('that cannot be fetched says so to who asks', async () => {
        const page = lazyPage<'Sheet'>(() => Promise.reject(new Error('no network')), 'Sheet');
        await expect(page.fetch()).rejects.toThrow('no network');
    });

    test('has the name it was asked for among others of its module', async () => {
        const Other: ComponentType = () => createElement('h2', null, 'Other');
        const module = { Sheet, Other };
        const page = lazyPage(() => Promise.resolve(module), 'Other');
        await page.fetch();
        expect(renderToStaticMarkup(createElement(page))).toBe('<h2>Other</h2>');
    });
});
