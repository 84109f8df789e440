/** Numbers and units over their whole range: what is shown can be typed again and means the same. */
import { parseNumber, decimalsOf, formatNumber, fromShown, plainNumber, shownUnit, toShown } from '@/units/units';

import { BAR, IMPERIAL, knowUnits, METRIC } from './units';

beforeAll(knowUnits);

/** A plain generator, so that a failure comes back the same. */
function* drawn(count: number, low: number, high: number): Generator<number> {
    let state = 12345;
    for (let i = 0; i < count; i += 1) {
        state = (state * 1103515245 + 12345) % 2147483648;
        yield low + ((high - low) * state) / 2147483648;
    }
}

const UNITS = ['°C', 'kPa', 'cm³/min', 'lambda', 'rpm', '%', 'V', 'ms'];
const CHOICES = { METRIC, IMPERIAL, BAR };

describe.each(Object.entries(CHOICES))('in %s units', (_, choice) => {
    test.each(UNITS)('%s: shown and typed back it is the same value', (unit) => {
        for (const value of drawn(200, -200, 3000)) {
            expect(fromShown(toShown(value, unit, choice), unit, choice)).toBeCloseTo(value, 8);
        }
    });

    test.each(UNITS)('%s: the order of values is kept', (unit) => {
        const values = [...drawn(50, -100, 900)].sort((a, b) => a - b);
        const shown = values.map((value) => toShown(value, unit, choice));
        expect([...shown].sort((a, b) => a - b)).toEqual(shown);
    });

    test.each(UNITS)('%s has a name', (unit) => expect(shownUnit(unit, choice)).not.toBe(''));
});

describe('a number that is shown', () => {
    test.each([0, 1, 2, 3, 4])('with %d decimals is read back within half a step', (decimals) => {
        for (const value of drawn(300, -5000, 5000)) {
            const back = parseNumber(formatNumber(value, decimals));
            expect(back).not.toBeNull();
            expect(Math.abs((back ?? NaN) - value)).toBeLessThanOrEqual(0.5 * 10 ** -decimals + 1e-9);
        }
    });

    test('has no comma, no exponent and no negative nothing', () => {
        for (const value of drawn(300, -1e7, 1e7)) {
            for (const text of [formatNumber(value, 2), plainNumber(value, 3)]) {
                expect(text).toMatch(/^−?\d+(\.\d+)?$/);
                expect(text).not.toBe('−0');
            }
        }
        expect(formatNumber(-0.0001, 2)).toBe('0.00');
        expect(plainNumber(-0.0001, 2)).toBe('0');
    });

    test('keeps no idle zeros where none are wanted', () => {
        expect(plainNumber(2.5, 3)).toBe('2.5');
        expect(plainNumber(300, 3)).toBe('300');
        expect(plainNumber(1 / 3, 2)).toBe('0.33');
    });
});

describe('a number that is typed', () => {
    test.each([
        ['1,5', 1.5],
        ['1.5', 1.5],
        [' 12 500 ', 12500],
        ['−7', -7],
        ['-7,25', -7.25],
        ['+3', 3],
        ['.5', 0.5],
        ['5.', 5],
    ])('%s', (text, value) => expect(parseNumber(text)).toBe(value));

    test.each(['', ' ', '-', ',', '1,2,3', '1.2.3', '1e5', 'abc', '0x10', 'NaN', 'Infinity', '1_0', '--1'])('%s is none', (text) =>
        expect(parseNumber(text)).toBeNull(),
    );
});

describe('decimals of a resolution', () => {
    test.each([
        [1, 0],
        [50, 0],
        [0.5, 1],
        [0.1, 1],
        [0.05, 2],
        [0.01, 2],
        [0.001, 3],
        [0.25, 1],
    ])('%d needs %d', (resolution, decimals) => expect(decimalsOf(resolution)).toBe(decimals));
});
