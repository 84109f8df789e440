/** The screen writes canonical units exactly as the core does: one look, wherever a sentence is read. */
import { readFileSync } from 'node:fs';

import { filled, shownQuantity, type Quantity } from '@/units/said';

import { knowUnits, METRIC } from './units';

interface Written {
    quantities: (Quantity & { text: string })[];
    sentences: { said: { template: string; quantities: Quantity[] }; text: string }[];
}

beforeAll(knowUnits);

const path = process.env.INBETRIEB_WRITTEN;

// Written by the Python side when Django's runner starts these tests.
describe.skipIf(!path)('quantities of the core', () => {
    const known = path ? (JSON.parse(readFileSync(path, 'utf8')) as Written) : { quantities: [], sentences: [] };

    test('there are many', () => {
        expect(known.quantities.length).toBeGreaterThan(4000);
        expect(known.sentences.length).toBeGreaterThan(50);
    });

    test('each is written alike on both sides', () => {
        const different = known.quantities
            .map(({ text, ...quantity }) => ({ quantity, core: text, screen: shownQuantity(quantity, METRIC) }))
            .filter(({ core, screen }) => core !== screen);
        expect(different.slice(0, 5)).toEqual([]);
    });

    test('a whole sentence, too', () => {
        const different = known.sentences
            .map(({ said, text }) => ({ core: text, screen: filled(said, METRIC) }))
            .filter(({ core, screen }) => core !== screen);
        expect(different.slice(0, 5)).toEqual([]);
    });
});
