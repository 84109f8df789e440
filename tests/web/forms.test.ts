import { describeEngine } from '@/parts/describeEngine';
import { fieldProblem } from '@/parts/fieldProblem';
import { ApiProblem } from '@/api/client';
import { placeOf } from '@/parts/placeOf';
import { day, moment } from '@/parts/when';
import { axisOf, deadTimeOf, defaultText, EMPTY, engineOf, isOddAxis, isOddDeadTime, numberOf, unitOf, type EngineField, type Form } from '@/stations/newjob/form';
import { circumstancesOf, NO_CIRCUMSTANCES } from '@/stations/record/circumstances';
import { numbersOf, textOf } from '@/parts/numberList';

import { BAR, IMPERIAL, knowUnits, METRIC } from './units';

beforeAll(knowUnits);

const field = (path: string, unit = '', more: Partial<EngineField> = {}): EngineField => ({ path, title: path, unit, lower: 0, upper: 1e9, default: null, needed: false, ...more });
const FIELDS = [
    field('displacement_l', 'l', { needed: true }),
    field('chambers', '', { needed: true }),
    field('boost_kpa', 'kPa', { default: 0 }),
    field('ethanol_volume_share', '', { default: 0 }),
    field('rail_pressure_kpa', 'kPa', { default: 300 }),
    field('injectors.flow_cm3_min', 'cm³/min', { needed: true }),
    field('injectors.count'),
];
const typed = (numbers: Record<string, string>, more: Partial<Form> = {}): Form => ({ ...EMPTY, numbers, ...more });
const ENOUGH = { displacement_l: '2,2', chambers: '4', 'injectors.flow_cm3_min': '390' };

describe('a new job', () => {
    test('nothing is sent while something needed is missing or half-typed', () => {
        expect(engineOf(EMPTY, FIELDS, METRIC)).toBeNull();
        expect(engineOf(typed({ ...ENOUGH, chambers: '' }), FIELDS, METRIC)).toBeNull();
        expect(engineOf(typed({ ...ENOUGH, boost_kpa: '-' }), FIELDS, METRIC)).toBeNull();
    });

    test('what is left empty is left to the server', () => {
        const engine = engineOf(typed(ENOUGH), FIELDS, METRIC);
        expect(engine).toMatchObject({ displacement_l: 2.2, chambers: 4, induction: 'natural', injectors: { flow_cm3_min: 390, dead_time: null } });
        expect(engine).not.toHaveProperty('rail_pressure_kpa');
        expect(engine?.injectors).not.toHaveProperty('count');
        expect(engine?.schools).toEqual({});
    });

    test('typed units are converted', () => {
        const engine = engineOf(typed({ ...ENOUGH, boost_kpa: '10', ethanol_volume_share: '85', 'injectors.flow_cm3_min': '40' }), FIELDS, IMPERIAL);
        expect(engine?.boost_kpa).toBeCloseTo(68.95, 2);
        expect(engine?.induction).toBe('boosted');
        expect(engine?.ethanol_volume_share).toBeCloseTo(0.85);
        expect(engine?.injectors.flow_cm3_min).toBeCloseTo(405.9, 0);
    });

    test.each([
        ['kPa', 300, METRIC, '300'],
        ['kPa', 300, IMPERIAL, '43.5'],
        ['kPa', 300, BAR, '3'],
        ['', 9.5, METRIC, '9.5'],
    ])('a default of %s %d', (unit, value, units, text) => expect(defaultText(field('x', unit, { default: value }), units)).toBe(text));

    test('shares are typed in percent', () => {
        const share = field('ethanol_volume_share', '', { default: 0.1 });
        expect(unitOf(share, METRIC)).toBe('%');
        expect(defaultText(share, METRIC)).toBe('10');
        expect(numberOf('85', share, METRIC)).toBe(0.85);
    });

    test('no default, no text', () => expect(defaultText(field('x'), METRIC)).toBeUndefined());
});

describe('dead times as they are typed', () => {
    test.each([
        ['8 2,5; 12 1,2', [8, 12], [2.5, 1.2]],
        ['8: 2.5\n12 = 1.2', [8, 12], [2.5, 1.2]],
        ['8 2.5; 12 1.2;', [8, 12], [2.5, 1.2]],
    ])('%j', (text, volts, times) => expect(deadTimeOf(text)).toEqual({ voltage_v: volts, dead_time_ms: times }));

    test.each([
        ['', false],
        [' ; ', false],
        ['8 2.5; 12 1,2', false],
        ['8 2.5; and so on', true],
        ['8', true],
        ['8 2.5; 12 1.2 3', true],
    ])('%j is said to be odd: %s', (text, odd) => expect(isOddDeadTime(text)).toBe(odd));

    test.each(['', ' ', '8', '8 x', 'a b; 12 1.2'])('%j is none', (text) => expect(deadTimeOf(text)).toBeNull());
});

describe('own breakpoints', () => {
    test('in the shown unit', () => {
        expect(axisOf('-20 0; 20', METRIC)).toEqual([-20, 0, 20]);
        expect(axisOf('32 212', IMPERIAL)?.map((v) => Math.round(v))).toEqual([0, 100]);
    });
    test('what cannot be read is odd, nothing is not', () => {
        expect(['', ' ', '-20 0', '1 2 x'].map((text) => isOddAxis(text, METRIC))).toEqual([false, false, false, true]);
    });
    test.each(['', 'a', '1 2 x'])('%j is none', (text) => expect(axisOf(text, METRIC)).toBeNull());
});

describe('an engine in one line', () => {
    const engine = { displacement_l: 1.6, chambers: 4, cycle: 'four_stroke', fuelling: 'port', induction: 'boosted', boost_kpa: 83, ethanol_volume_share: 0.3 };
    const line = (changes: object, units = METRIC) => describeEngine({ engine: { ...engine, ...changes } as never, units });

    test('metric', () => expect(line({})).toBe('1.6 l, 4 cylinders, port injection, boost 83 kPa, 30 % ethanol'));
    test('imperial', () => expect(line({}, IMPERIAL)).toContain('boost 12 psi'));
    test('bar', () => expect(line({}, BAR)).toContain('boost 0.83 bar'));
    test('natural, petrol, rotary', () => {
        expect(line({ cycle: 'rotary', chambers: 2, induction: 'natural', boost_kpa: 0, ethanol_volume_share: 0, fuelling: 'throttle_body' })).toBe('1.6 l, 2 rotors, throttle-body injection');
    });
});

describe('circumstances of a start', () => {
    test('nothing typed is nothing known', () => {
        expect(circumstancesOf(NO_CIRCUMSTANCES, METRIC)).toEqual({
            coolant_c: null, ambient_c: null, soak_h: null, revision: null, attempt: 1, black_smoke: false, fuel_smell: false,
        });
    });
    test('temperatures are converted, hours are not', () => {
        expect(circumstancesOf({ ...NO_CIRCUMSTANCES, coolant: '50', ambient: '41', soak: '12,5', revision: '3', attempt: '2', smoke: true }, IMPERIAL)).toEqual({
            coolant_c: 10, ambient_c: 5, soak_h: 12.5, revision: 3, attempt: 2, black_smoke: true, fuel_smell: false,
        });
    });
});

describe('numbers parted by blanks', () => {
    test.each([
        ['1 3 4 2', [1, 3, 4, 2]],
        ['1, 3, 4, 2', [1, 3, 4, 2]],
        ['1;3;4;2', [1, 3, 4, 2]],
        ['', []],
    ])('%j', (text, numbers) => expect(numbersOf(text)).toEqual(numbers));
    test('one that is none spoils the list', () => expect(numbersOf('1 x 3')).toBeNull());
    test('and back', () => expect(textOf([1, 2.5, 1 / 3])).toBe('1 2.5 0.3333333'));
});

describe('where a cell lies', () => {
    const axes = [
        { name: 'rpm', unit: 'rpm' },
        { name: 'map_kpa', unit: 'kPa' },
        { name: 'coolant_c', unit: '°C' },
    ] as never;
    test.each([
        [[20], ['coolant_c'], METRIC, '20 °C'],
        [[20], ['coolant_c'], IMPERIAL, '68 °F'],
        [[900, 40], ['rpm', 'map_kpa'], METRIC, '900 rpm, 40 kPa'],
        [[], [], METRIC, ''],
        [[3], ['unheard_of'], METRIC, '3'],
    ])('%j over %j', (at, over, units, text) => expect(placeOf({ at }, over, axes, units)).toBe(text));
});

describe('stamps of the server', () => {
    test('in one form everywhere', () => {
        expect(day('2026-11-25T14:43:00')).toBe('25 Nov 2026');
        expect(moment('2026-11-25T14:43:00')).toMatch(/25 Nov 2026.*14:43/);
    });
});

describe('the sentence about a field', () => {
    const refusal = (name: string, sentence: string) => new ApiProblem({ type: '', title: '', status: 422, detail: sentence, problems: [{ field: name, sentence }], extra: {} });
    test('the first refusal that names it, nested names by their end', () => {
        const errors = [null, new Error('broken'), refusal('engine.injectors.flow_cm3_min', 'Too small.'), refusal('flow_cm3_min', 'Later.')];
        expect(fieldProblem(errors, 'flow_cm3_min')).toBe('Too small.');
        expect(fieldProblem(errors, 'min')).toBeUndefined();
        expect(fieldProblem([], 'flow_cm3_min')).toBeUndefined();
    });
});
