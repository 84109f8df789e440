import { decimalsOf, formatNumber, fromShown, namedUnit, parseNumber, plainNumber, shownUnit, toShown } from '@/units/units';

import { BAR, IMPERIAL, knowUnits, METRIC } from './units';

beforeAll(knowUnits);

describe('what is typed', () => {
    test.each([
        ['12', 12],
        ['12.5', 12.5],
        ['12,5', 12.5],
        [' 1 200 ', 1200],
        ['−3', -3],
        ['-3', -3],
        ['+4', 4],
        [',5', 0.5],
        ['5.', 5],
    ])('%s is %d', (text, number) => expect(parseNumber(text)).toBe(number));

    test.each(['', ' ', '-', '.', ',', '1,2,3', '1.2.3', '1e5', 'abc', '12 V', 'NaN', 'Infinity', '0x10'])(
        '“%s” is no number yet',
        (text) => expect(parseNumber(text)).toBeNull(),
    );
});

describe('how a number is shown', () => {
    test.each([
        [1.25, 1, '1.3'],
        [-1, 0, '−1'],
        [-0.04, 1, '0.0'],
        [0, 2, '0.00'],
        [123456, 0, '123456'],
    ])('%d with %d decimals is %s', (value, decimals, text) => expect(formatNumber(value, decimals)).toBe(text));

    test.each([
        [9.5, 3, '9.5'],
        [10, 3, '10'],
        [-40, 1, '−40'],
        [0.12345, 3, '0.123'],
    ])('%d without idle zeros is %s', (value, decimals, text) => expect(plainNumber(value, decimals)).toBe(text));

    test('the decimal sign is a point everywhere', () => {
        for (const value of [0.5, 12.25, -3.75]) {
            expect(formatNumber(value, 2)).not.toContain(',');
            expect(plainNumber(value, 2)).not.toContain(',');
        }
    });

    test.each([
        [1, 0],
        [0.5, 1],
        [0.1, 1],
        [0.05, 2],
        [0.01, 2],
        [0.001, 3],
        [10, 0],
    ])('a step of %d asks for %d decimals', (step, decimals) => expect(decimalsOf(step)).toBe(decimals));
});

describe('units of a job', () => {
    test('canonical where nothing else is chosen', () => {
        expect(shownUnit('°C', METRIC)).toBe('°C');
        expect(shownUnit('°C', {})).toBe('°C');
        expect(toShown(20, '°C', METRIC)).toBe(20);
    });

    test.each([
        [-40, '°C', -40],
        [100, '°C', 212],
        [101.325, 'kPa', 14.696],
        [0.94, 'lambda', 13.818],
    ])('%d %s is %d', (value, unit, shown) => expect(toShown(value, unit, IMPERIAL)).toBeCloseTo(shown, 3));

    test('bar', () => expect(toShown(300, 'kPa', BAR)).toBeCloseTo(3));

    test('a unit without a choice stays', () => {
        expect(shownUnit('rpm', IMPERIAL)).toBe('rpm');
        expect(toShown(900, 'rpm', IMPERIAL)).toBe(900);
    });

    test('what is shown and typed back is the same', () => {
        for (const unit of ['°C', 'kPa', 'cm³/min', 'lambda', 'V'])
            for (const value of [-12.5, 0, 0.94, 300, 1234.5])
                expect(fromShown(toShown(value, unit, IMPERIAL), unit, IMPERIAL)).toBeCloseTo(value, 9);
    });

    test('a mixture is called lambda', () => {
        expect(namedUnit('–')).toBe('lambda');
        expect(namedUnit('%')).toBe('%');
    });
});
