import { typedValue } from '@/parts/draft/typed';
import { keyMeans } from '@/parts/tableBench/keys';
import { OPERATION_KEYS } from '@/parts/tableBench/operations';
import { displayOf } from '@/parts/tableBench/display';
import { project, quads } from '@/parts/tableBench/project';
import { slicesOf } from '@/parts/tableBench/slicesOf';
import { amountOf } from '@/parts/tableBench/usePending';
import { cellsIn, nearestCell } from '@/parts/tableBench/useSelection';

import { BAR, IMPERIAL, knowUnits, METRIC } from './units';

beforeAll(knowUnits);

const key = (name: string, more = {}) => keyMeans({ key: name, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...more });
const plain = { unit: '%', decimals: 1, show: (v: number) => v, read: (v: number) => v };
const VE = { lower: 5, upper: 200, title: 'Volumetric efficiency' };

describe('keys of the table bench', () => {
    test.each([
        ['ArrowUp', [-1, 0]],
        ['ArrowLeft', [0, -1]],
        ['PageDown', [8, 0]],
    ])('%s moves', (name, by) => expect(key(name)).toEqual({ does: 'move', by }));

    test('Home and End reach any end', () => {
        expect(key('Home')).toMatchObject({ does: 'move' });
        expect((key('End') as { by: number[] }).by[1]).toBeGreaterThan(1000);
    });

    test('every operation has a key of its own that nothing else uses', () => {
        const keys = Object.values(OPERATION_KEYS);
        expect(new Set(keys).size).toBe(keys.length);
        for (const [operation, name] of Object.entries(OPERATION_KEYS)) expect(key(name)).toEqual({ does: 'begin', operation });
    });

    test.each([
        [']', 5],
        ['[', -5],
        ['}', 10],
        ['{', -10],
    ])('%s changes by %d percent', (name, percent) => expect(key(name)).toEqual({ does: 'percent', percent }));

    test.each(['0', '7', '.', ','])('%s begins typing', (name) => expect(key(name)).toEqual({ does: 'type', text: name }));

    test('undo by u, and by Ctrl z with Shift for redo', () => {
        expect(key('u')).toEqual({ does: 'undo' });
        expect(key('z', { ctrlKey: true })).toEqual({ does: 'undo' });
        expect(key('Z', { metaKey: true, shiftKey: true })).toEqual({ does: 'redo' });
    });

    test('keys of the browser are left to it', () => {
        expect(key('l', { ctrlKey: true })).toBeUndefined();
        expect(key('ArrowLeft', { altKey: true })).toBeUndefined();
        expect(key('q')).toBeUndefined();
        expect(key('F5')).toBeUndefined();
    });
});

describe('a typed value', () => {
    test('within the bounds', () => expect(typedValue('92,5', VE, plain)).toEqual({ value: 92.5 }));
    test('at the bounds', () => {
        expect(typedValue('5', VE, plain)).toEqual({ value: 5 });
        expect(typedValue('200', VE, plain)).toEqual({ value: 200 });
    });
    test('no number', () => expect(typedValue('ab', VE, plain)).toEqual({ refusal: '“ab” is not a number.' }));
    test('beyond', () => {
        expect(typedValue('500', VE, plain)).toEqual({ refusal: 'Volumetric efficiency must be between 5 and 200 %, not 500.' });
    });
    test('bounds are told in the unit that is typed, the lower first', () => {
        const turned = { unit: 'x', decimals: 2, show: (v: number) => -v / 10, read: (v: number) => -v * 10 };
        expect(typedValue('99', VE, turned)).toEqual({ refusal: 'Volumetric efficiency must be between −20 and −0.5 x, not 99.' });
    });
});

describe('how much an operation does', () => {
    const display = { factor: 0.01, read: (v: number) => v / 0.01 };
    test.each([
        ['set', '1.2', 120],
        ['add', '0.5', 50],
        ['percent', '-4', -4],
        ['smooth', '50', 0.5],
        ['interpolate', '', 0],
        ['fill_down', '', 0],
        ['paste', '', 0],
    ] as const)('%s %s', (operation, amount, result) => expect(amountOf({ operation, amount }, display)).toBeCloseTo(result));

    test('half-typed is nothing yet', () => expect(amountOf({ operation: 'set', amount: '-' }, display)).toBeNull());
});

describe('choosing cells', () => {
    test('every cell of a rectangle', () => {
        expect(cellsIn({ first_row: 1, last_row: 2, first_column: 0, last_column: 1 })).toEqual(['1.0', '1.1', '2.0', '2.1']);
    });

    test('the nearest to a shown value, the first of equals', () => {
        const grid = [
            [10, 20],
            [20, 40],
        ];
        expect(nearestCell(grid, 2, (v) => v / 10, { row: 1, column: 1 })).toEqual({ row: 0, column: 1 });
        expect(nearestCell(grid, 99, (v) => v, { row: 0, column: 0 })).toEqual({ row: 1, column: 1 });
    });
});

describe('how a table is shown', () => {
    const definition = { key: 'lambda_target', unit: '–', resolution: 0.001 } as never;
    const boost = { key: 'boost_target', unit: 'kPa', resolution: 1 } as never;

    test('a mixture as an air–fuel ratio', () => {
        const display = displayOf(definition, undefined, IMPERIAL, false);
        expect(display.unit).toBe('AFR');
        expect(display.show(1)).toBeCloseTo(14.7);
        expect(display.read(display.show(0.87))).toBeCloseTo(0.87);
        expect(display.isCanonical).toBe(false);
    });

    test('canonical for a metric job', () => expect(displayOf(definition, undefined, METRIC, false)).toMatchObject({ unit: 'lambda', isCanonical: true, decimals: 3 }));

    test('bar has two decimals', () => expect(displayOf(boost, undefined, BAR, false).decimals).toBe(2));

    test('the controller’s own unit, unless the canonical one is wanted', () => {
        const form = { unit: 'mbar', step: 10, factor: 10, offset: 0, known: true };
        expect(displayOf(boost, form, METRIC, false)).toMatchObject({ unit: 'mbar', step: 10 });
        expect(displayOf(boost, form, METRIC, true).unit).toBe('kPa');
        expect(displayOf(boost, { ...form, known: false }, METRIC, false).unit).toBe('kPa');
    });
});

describe('slices', () => {
    const down = { title: 'Engine speed', unit: 'rpm', points: [800, 1600], decimals: 0 };
    const across = { title: 'Manifold pressure, absolute', unit: 'kPa', points: [30, 60, 90], decimals: 0 };
    const grid = [
        [1, 2, 3],
        [4, 5, 6],
    ];
    test('row and column through the selected cell', () => {
        const found = slicesOf(grid, grid, { row: 1, column: 2 }, down, across, (v) => v, { row: 0.5, column: 1.5 });
        expect(found.map(({ key: which }) => which)).toEqual(['across', 'down']);
        expect(found[0]?.slice).toMatchObject({ title: 'At 1600 rpm', values: [4, 5, 6], at: 2, cursor: 75 });
        expect(found[1]?.slice).toMatchObject({ title: 'At 90 kPa', values: [3, 6], at: 1, cursor: 1200 });
    });
    test('a curve has one', () => {
        const found = slicesOf([[1], [2]], [[1], [2]], { row: 0, column: 0 }, down, null, (v) => v, null);
        expect(found).toHaveLength(1);
        expect(found[0]?.slice).toMatchObject({ title: 'As a curve', cursor: null });
    });
});

describe('a surface', () => {
    test('the farthest quad is drawn first', () => {
        const list = quads([0, 0.5, 1], [0, 1], [[0, 0], [0.5, 0.5], [1, 1]], { turn: 0.4, tilt: 0.5 });
        expect(list).toHaveLength(2);
        expect(list.map(({ depth }) => depth)).toEqual([...list.map(({ depth }) => depth)].sort((a, b) => b - a));
        expect(list.find(({ row }) => row === 1)?.height).toBeCloseTo(0.75);
    });
    test('the middle of the cube stands in the middle of the picture', () => {
        const middle = project(0.5, 0.5, 0.5, { turn: 1, tilt: 0.3 });
        expect(middle.x).toBeCloseTo(0);
        expect(middle.y).toBeCloseTo(0);
        expect(middle.depth).toBeCloseTo(0);
    });
    test('higher is farther up', () => {
        const view = { turn: 0, tilt: 0.5 };
        expect(project(0.5, 0.5, 1, view).y).toBeLessThan(project(0.5, 0.5, 0, view).y);
    });
});
