import { nextActionPath } from '@/app/nextActionPath';
import { editedCells, typedStep } from '@/stations/ladder/edits';
import { draftReducer, emptyDraft } from '@/parts/draft/draft';
import { injectorDraft, injectorsOf, supplyFrom } from '@/stations/injectors/draft';
import { stationAt, STATIONS } from '@/stations/registry';
import { draftOf, emptyDraft as emptySensor, sensorOf, type SensorFunction } from '@/stations/sensors/draft';
import { stripsOf } from '@/stations/trial/strips';
import { grouped } from '@/stations/wiring/grouped';
import { lineWords } from '@/stations/wiring/lineWords';

import { calibration } from './calibration';
import { IMPERIAL, knowUnits, METRIC } from './units';

beforeAll(knowUnits);

describe('the registry of stations', () => {
    test('no two keys, ways or routes are the same', () => {
        const keys = STATIONS.map(({ key }) => key).filter(Boolean); // sheets that are no station have none
        const ways = STATIONS.flatMap((station) => station.ways.map((way) => way.keys));
        const routes = STATIONS.flatMap((station) => station.routes.map(({ path }) => path));
        for (const list of [keys, ways, routes]) expect(new Set(list).size).toBe(list.length);
    });

    test('every way and every home leads to a route of its own station', () => {
        for (const station of STATIONS)
            for (const to of [station.home, ...station.ways.map((way) => way.to)]) expect(stationAt(to)?.key, to).toBe(station.key);
    });

    test.each([
        ['sensors/key-on', 'sensors'],
        ['trials/7', 'trial'],
        ['record', 'trial'],
        ['base-maps/tables/ve', 'base-maps'],
        ['', undefined],
        ['nowhere', undefined],
    ])('%s belongs to %s', (path, key) => expect(stationAt(path)?.key).toBe(key));
});

describe('where the next action is done', () => {
    const job = (action: object) => ({ id: 3, next_action: { sentence: '', gate: '', part: '', trial: null, ...action } }) as never;
    const trials = [{ id: 70, number: 2 }] as never;
    test.each([
        [{ kind: 'enter', station: 'wiring' }, '/jobs/3/wiring'],
        [{ kind: 'check', station: 'sensors', part: 'key-on' }, '/jobs/3/sensors/key-on'],
        [{ kind: 'decide', station: 'trial', trial: 2 }, '/jobs/3/trials/70'],
        [{ kind: 'mend', station: 'trial', trial: 2 }, '/jobs/3/trials/70'],
        [{ kind: 'decide', station: 'trial', trial: 9 }, '/jobs/3/record'],
        [{ kind: 'prove', station: 'ladder' }, '/jobs/3/ladder'],
        [{ kind: 'prove', station: 'trial' }, '/jobs/3/record'],
        [{ kind: 'record', station: 'trial' }, '/jobs/3/record'],
        [{ kind: 'repeat', station: 'trial', trial: 2 }, '/jobs/3/record'],
    ])('%j', (action, path) => expect(nextActionPath(job(action), trials)).toBe(path));
});

describe('what is typed on the ladder', () => {
    const base = calibration(1, { idle_valve: [10, 20, 30], idle_target: [900, 850, 800] });
    const definitions = [{ key: 'idle_valve' }, { key: 'idle_target' }, { key: 'gone' }];
    test('typed cells by table and rung; typed back is not typed', () => {
        let draft = emptyDraft(1);
        for (const step of [typedStep({ table: 'idle_valve', index: 1 }, 20, 22), typedStep({ table: 'idle_target', index: 0 }, 900, 950), typedStep({ table: 'idle_target', index: 0 }, 950, 900)])
            draft = draftReducer(draft, { type: 'step', step });
        expect(editedCells(base, definitions, draft)).toEqual({ 'idle_valve:1': 22 });
    });
});

describe('injectors while they are typed', () => {
    const entry = {
        name: 'Four of a kind', count: 4, flow: 390, flow_unit: 'cm³/min', fluid: 'petrol', fluid_density_kg_m3: null, rated_pressure_kpa: 300,
        dead_time: { voltage_v: [8, 14], dead_time_ms: [[2.4, 0.9]], pressure_kpa: null }, report: null, resistance_ohm: 12.5, driver: 'plain',
        smallest_open_ms: null, injections_per_cycle: 1, signals: 'speed_and_phase', target_power_kw: null, provenance: 'data_sheet', note: '', override_reason: '',
    } as never;

    test('shown and sent back they are the same', () => {
        expect(injectorsOf(injectorDraft(entry))).toEqual(entry);
    });

    test.each(['count', 'flow', 'rated'] as const)('without %s nothing is sent', (name) => {
        expect(injectorsOf({ ...injectorDraft(entry), [name]: null })).toBeNull();
    });

    test('half-typed rows of the dead time are passed over', () => {
        const draft = { ...injectorDraft(entry), deadTime: [[8, 2.4], [12, null], [14, 0.9]] };
        expect(injectorsOf(draft)?.dead_time).toEqual({ voltage_v: [8, 14], dead_time_ms: [[2.4, 0.9]], pressure_kpa: null });
        expect(injectorsOf({ ...draft, deadTime: [] })?.dead_time).toBeNull();
    });

    test('a density counts only for an own fluid', () => {
        expect(injectorsOf({ ...injectorDraft(entry), density: 700 })?.fluid_density_kg_m3).toBeNull();
        expect(injectorsOf({ ...injectorDraft(entry), fluid: 'own', density: 700 })?.fluid_density_kg_m3).toBe(700);
    });
});

describe('a supply while it is typed', () => {
    const draft = {
        name: 'In the tank', readings: [[13.5, 300, 120], [13.5, 400, null]], regulator: 'referenced_return', rail: 300, loss: null, lossAt: null,
        voltage: null, prime: [[0.5, 100]], decay: [], provenance: 'measured', note: '',
    } as never as Parameters<typeof supplyFrom>[0];

    test('whole rows are sent, and what is empty is the server’s', () => {
        const supply = supplyFrom(draft);
        expect(supply?.readings).toEqual([{ voltage_v: 13.5, pressure_kpa: 300, flow_l_h: 120 }]);
        for (const name of ['line_loss_kpa', 'line_loss_at_l_h', 'voltage_v']) expect(supply).not.toHaveProperty(name);
        expect(supply).toMatchObject({ prime: [[0.5, 100]], decay: null });
    });

    test('what is typed is sent', () => expect(supplyFrom({ ...draft, loss: 12, lossAt: 80, voltage: 12.8 })).toMatchObject({ line_loss_kpa: 12, line_loss_at_l_h: 80, voltage_v: 12.8 }));

    test('without a reading or a rail pressure nothing is sent', () => {
        expect(supplyFrom({ ...draft, readings: [] })).toBeNull();
        expect(supplyFrom({ ...draft, rail: null })).toBeNull();
    });
});

describe('a sensor while it is typed', () => {
    const definition = { key: 'coolant', title: 'Coolant temperature', unit: '°C', transfers: ['thermistor', 'linear', 'table', 'thermocouple'] } as never as SensorFunction;
    const defaults = { adc_bits: 10, lamp_share_pct: 12, freeze_rpm: 3000, dead_zone_pct: 2, supply_v: 5 } as never;
    const sensor = (transfer: object) =>
        ({ function: 'coolant', name: 'Sender', transfer, provenance: 'measured', note: '', adc_bits: 10, capacity_l: null, lamp_share_pct: 12, freeze_rpm: 3000, dead_zone_pct: 2 }) as never;

    test.each([
        [{ kind: 'thermistor', points: [[-20, 15460], [20, 2500]], beta_k: null, pull_up_ohm: 2490, supply_v: 5 }],
        [{ kind: 'thermistor', points: [[25, 10000]], beta_k: 3950, pull_up_ohm: 2490, supply_v: 5 }],
        [{ kind: 'linear', points: [[0.5, 0], [4.5, 1000]] }],
        [{ kind: 'linear', slope: 250, offset: -125 }],
        [{ kind: 'frequency', points: [[50, 0], [150, 100]] }],
        [{ kind: 'table', points: [[0, 0], [1, 10], [5, 100]] }],
        [{ kind: 'thermocouple', gain_v_per_mv: 0.12, offset_v: 0.1, cold_junction_c: null }],
    ])('shown and sent back it is the same: %j', (transfer) => {
        const saved = sensor(transfer);
        expect(sensorOf(draftOf(saved, definition, defaults), defaults)).toEqual(saved);
    });

    test('an empty one is not sent', () => {
        const empty = emptySensor(definition, defaults);
        expect(empty.kind).toBe('thermistor');
        expect(sensorOf(empty, defaults)).toBeNull();
        for (const kind of ['linear', 'table', 'thermocouple', 'frequency'] as const) expect(sensorOf({ ...empty, kind }, defaults)).toBeNull();
        expect(sensorOf({ ...empty, kind: 'linear', way: 'slope', slope: 3 }, defaults)).toBeNull();
        expect(sensorOf({ ...empty, way: 'beta', points: [[25, 1e4]], pullUp: 2490 }, defaults)).toBeNull();
    });

    test('half-typed points are passed over', () => {
        const draft = { ...emptySensor(definition, defaults), kind: 'table' as const, points: [[0, 1], [null, 2], [3, null], [4, 5]] };
        expect(sensorOf(draft, defaults)?.transfer).toEqual({ kind: 'table', points: [[0, 1], [4, 5]] });
    });
});

describe('strips of a start trace', () => {
    const samples = { time_s: [0, 1, 2], channels: { rpm: [0, 200, 900], lambda: [1.3, 1.2, 0.95], map_kpa: [100, null, 40], battery_v: [null, null, null] } } as never;
    test('only channels that the log has; a cold sensor is dashed', () => {
        const strips = stripsOf(samples, METRIC, 2);
        expect(strips).toHaveLength(3);
        const [warm, cold] = strips[2]?.lines ?? [];
        expect(warm?.values).toEqual([null, null, 0.95]);
        expect(cold).toMatchObject({ dashed: true, values: [1.3, 1.2, null] });
    });
    test('a sensor that never lives is dashed throughout', () => {
        expect(stripsOf(samples, METRIC, null)[2]?.lines[0]?.values).toEqual([null, null, null]);
    });
    test('in the job’s units, gaps stay gaps', () => {
        const pressure = stripsOf(samples, IMPERIAL, 0)[1]?.lines[0];
        expect(pressure).toMatchObject({ unit: 'psi', decimals: 1 });
        expect(pressure?.values[1]).toBeNull();
        expect(pressure?.values[0]).toBeCloseTo(14.5, 1);
    });
});

describe('the wiring list', () => {
    const line = (key: string, connector: string, branch: string) => ({ key, connector, branch }) as never;
    const lines = [line('a', 'A', 'engine'), line('b', 'B', 'cabin'), line('c', '', 'engine')];
    const profile = { connectors: [{ name: 'A', title: 'Main' }, { name: 'B', title: 'Side' }, { name: 'C', title: 'Empty' }] } as never;
    const words = { branches: [{ key: 'engine', title: 'Engine' }, { key: 'cabin', title: 'Cabin' }, { key: 'rear', title: 'Rear' }] } as never;

    test('by plug, feeds last, empty groups left out', () => {
        expect(grouped(lines, 'connector', profile, words).map(({ title, lines: of }) => [title, of.length])).toEqual([
            ['A · Main', 1],
            ['B · Side', 1],
            ['Feeds, ending at no pin', 1],
        ]);
    });
    test('by branch', () => expect(grouped(lines, 'branch', profile, words).map(({ title }) => title)).toEqual(['Engine', 'Cabin']));

    test('what a wire needs beside its signal', () => {
        const wire = { supply: '5 V', ground: '', pull_up: '2.49 kΩ', active: 'low', protection: 'shield at one end', relay: true, note: 'Short.' } as never;
        expect(lineWords(wire)).toEqual(['Supply: 5 V.', 'Pull-up: 2.49 kΩ.', 'Active low.', 'Shield at one end.', 'Through a relay.', 'Short.']);
        expect(lineWords({ supply: '', ground: '', pull_up: '', active: '', protection: '', relay: false, note: '' } as never)).toEqual([]);
    });
});
