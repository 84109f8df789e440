import { decimalsFor, filled, inUnits, learnSaid, setUnitsInForce, shownQuantity, type Quantity } from '@/units/said';

import { BAR, IMPERIAL, knowUnits, METRIC } from './units';

beforeAll(knowUnits);
afterEach(() => setUnitsInForce({}));

const quantity = (value: number, unit: string, decimals = 0, more: Partial<Quantity> = {}): Quantity => ({
    value,
    unit,
    decimals,
    bare: false,
    signed: false,
    ...more,
});

describe('a quantity in the units of the job', () => {
    test.each([
        [quantity(25, '°C'), '77 °F'],
        [quantity(-10, '°C'), '14 °F'],
        [quantity(12, 'K'), '22 °F'],
        [quantity(300, 'kPa'), '43.5 psi'],
        [quantity(101.3, 'kPa', 1), '14.69 psi'],
        [quantity(0.94, 'lambda', 2), 'AFR 13.8'],
        [quantity(330, 'cm³/min'), '32.5 lb/h'],
    ])('%o', (given, shown) => expect(shownQuantity(given, IMPERIAL)).toBe(shown));

    test.each([
        [quantity(25, '°C'), '25 °C'],
        [quantity(12, 'K', 1), '12.0 K'],
        [quantity(0.9, 'lambda', 2), 'lambda 0.90'],
        [quantity(40, 'kPa', 0, { signed: true }), '+40 kPa'],
        [quantity(-40, 'kPa', 0, { signed: true }), '−40 kPa'],
        [quantity(0.2, 'kPa', 0, { signed: true }), '0 kPa'],
        [quantity(25, '°C', 0, { bare: true }), '25'],
    ])('canonical: %o', (given, shown) => expect(shownQuantity(given, METRIC)).toBe(shown));

    test('bar needs the decimals that kPa did not', () => {
        expect(shownQuantity(quantity(235, 'kPa'), BAR)).toBe('2.35 bar');
    });

    test('a psi value does not claim more than the kPa value did', () => {
        // 1 kPa is 0.145 psi: one decimal, not five digits
        expect(shownQuantity(quantity(1000, 'kPa'), IMPERIAL)).toBe('145.0 psi');
    });
});

describe('decimals after a conversion', () => {
    test.each([
        [0, 1.8, 0],
        [0, 0.145, 1],
        [0, 0.01, 2],
        [1, 0.145, 2],
        [2, 14.7, 1],
        [0, 0.0985, 1],
        [1, 1, 1],
    ])('%d decimals times %d are %d', (decimals, factor, result) => expect(decimalsFor(decimals, factor)).toBe(result));
});

describe('a template', () => {
    test('a range is converted at both ends', () => {
        const said = { template: 'between {0} and {1}', quantities: [quantity(25, '°C', 0, { bare: true }), quantity(85, '°C')] };
        expect(filled(said, METRIC)).toBe('between 25 and 85 °C');
        expect(filled(said, IMPERIAL)).toBe('between 77 and 185 °F');
    });

    test('doubled braces are braces', () => {
        expect(filled({ template: '{{x}} {0}', quantities: [quantity(1, 'kPa')] }, METRIC)).toBe('{x} 1 kPa');
    });

    test('a quantity may stand twice, or not at all', () => {
        const said = { template: '{0} and again {0}', quantities: [quantity(5, '°C'), quantity(6, '°C')] };
        expect(filled(said, METRIC)).toBe('5 °C and again 5 °C');
    });
});

describe('what an answer says', () => {
    const said = { template: 'Starts at {0}.', quantities: [quantity(6, '°C')] };

    test('a sentence of an object is known by its text', () => {
        learnSaid({ sentence: 'Starts at 6 °C.', said: { sentence: said } });
        expect(inUnits('Starts at 6 °C.', IMPERIAL)).toBe('Starts at 43 °F.');
    });

    test('lists of sentences, nested objects and lists of objects', () => {
        learnSaid({
            trials: [
                { findings: [{ reason: 'Cold: 7 °C.', said: { reason: { template: 'Cold: {0}.', quantities: [quantity(7, '°C')] } } }] },
                { sentences: ['plain', 'At 8 °C.'], said: { sentences: [null, { template: 'At {0}.', quantities: [quantity(8, '°C')] }] } },
            ],
        });
        expect(inUnits('Cold: 7 °C.', IMPERIAL)).toBe('Cold: 45 °F.');
        expect(inUnits('At 8 °C.', IMPERIAL)).toBe('At 46 °F.');
        expect(inUnits('plain', IMPERIAL)).toBe('plain');
    });

    test('prose is never rewritten by pattern', () => {
        expect(inUnits('The owner wrote: 20 °C and 300 kPa.', IMPERIAL)).toBe('The owner wrote: 20 °C and 300 kPa.');
    });

    test('the units of the open job hold where none are given', () => {
        learnSaid({ sentence: 'Starts at 6 °C.', said: { sentence: said } });
        expect(inUnits('Starts at 6 °C.')).toBe('Starts at 6 °C.');
        setUnitsInForce(IMPERIAL);
        expect(inUnits('Starts at 6 °C.')).toBe('Starts at 43 °F.');
    });

    test('numbers, texts and nothing are no objects', () => {
        for (const odd of [null, undefined, 3, 'text', [1, 2], [], {}, { said: null }, { said: { gone: said } }])
            expect(() => learnSaid(odd)).not.toThrow();
    });
});
