import { bounds, cellAt, gridOf, indexOf, isInside, keyOf, marksOf, nested, placeOn, spanOf, tableOf } from '@/parts/draft/grid';

import { calibration } from './calibration';

describe('values as rows and columns', () => {
    test.each([
        [5, [[5]], 0],
        [[1, 2], [[1], [2]], 1],
        [[[1, 2], [3, 4]], [[1, 2], [3, 4]], 2],
    ])('%j', (values, grid, dimensions) => {
        expect(gridOf({ values: values as number[] })).toEqual(grid);
        expect(nested(grid, dimensions)).toEqual(values);
    });

    test('cells and indices', () => {
        expect(cellAt([3])).toEqual({ row: 3, column: 0 });
        expect(cellAt([])).toEqual({ row: 0, column: 0 });
        expect(indexOf({ row: 2, column: 5 }, 0)).toEqual([]);
        expect(indexOf({ row: 2, column: 5 }, 1)).toEqual([2]);
        expect(indexOf({ row: 2, column: 5 }, 2)).toEqual([2, 5]);
        expect(keyOf(2, 5)).toBe('2.5');
    });

    test('marks of a number, a curve and a map', () => {
        const mark = { kind: 'assumed', reason: '', source: '' } as const;
        expect(marksOf({ provenance: mark })).toEqual([[mark]]);
        expect(marksOf({ provenance: [mark, mark] })).toEqual([[mark], [mark]]);
        expect(marksOf({ provenance: [[mark, mark]] })).toEqual([[mark, mark]]);
    });
});

describe('a region', () => {
    const region = { from: { row: 4, column: 1 }, to: { row: 2, column: 3 } };

    test('whichever way it was drawn', () => {
        expect(bounds(region)).toEqual({ first_row: 2, last_row: 4, first_column: 1, last_column: 3 });
    });

    test('both ends belong to it', () => {
        expect(isInside(region, 2, 3)).toBe(true);
        expect(isInside(region, 4, 1)).toBe(true);
        expect(isInside(region, 1, 2)).toBe(false);
        expect(isInside(region, 3, 0)).toBe(false);
    });
});

test('lowest and highest', () => expect(spanOf([[3, -1], [7, 2]])).toEqual([-1, 7]));

test('a setting is a table without axes', () => {
    const found = tableOf(calibration(1, { idle_valve: [1, 2] }), 'boost_limit');
    expect(found).toMatchObject({ axes: [], values: 170, unit: 'kPa' });
    expect(tableOf(calibration(1, {}), 'nothing')).toBeUndefined();
});

describe('between breakpoints', () => {
    const points = [500, 1000, 3000];
    test.each([
        [400, 0],
        [500, 0],
        [750, 0.5],
        [1000, 1],
        [2500, 1.75],
        [3000, 2],
        [9000, 2],
    ])('%d lies at %d', (value, place) => expect(placeOn(points, value)).toBeCloseTo(place));

    test('one point holds everywhere', () => expect(placeOn([7], 100)).toBe(0));
});
