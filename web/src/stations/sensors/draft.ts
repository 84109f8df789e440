import type { Schemas, Sensor } from '../../api/client';
import type { Row } from '../../parts/PointGrid';

export type SensorFunction = Schemas['SensorFunction'];
export type Kind = Sensor['transfer']['kind'];

/** How the curve of a kind is entered. */
export type Way = 'points' | 'slope' | 'beta';

/** A sensor while it is typed: everything that any kind of transfer may need, nulls for gaps. */
export interface Draft {
    function: string;
    name: string;
    kind: Kind;
    way: Way;
    points: Row[];
    slope: number | null;
    offset: number | null;
    pullUp: number | null;
    supply: number | null;
    beta: number | null;
    gain: number | null;
    amplifierOffset: number | null;
    coldJunction: number | null;
    provenance: Sensor['provenance'];
    note: string;
    bits: 10 | 12;
    capacity: number | null;
    lamp: number | null;
    freeze: number | null;
    deadZone: number | null;
}

type Defaults = Schemas['SensorDefaultsOut'];

export function emptyDraft(definition: SensorFunction, defaults: Defaults): Draft {
    return {
        function: definition.key,
        name: '',
        kind: definition.transfers[0] ?? 'linear',
        way: 'points',
        points: [],
        slope: null,
        offset: null,
        pullUp: null,
        supply: defaults.supply_v,
        beta: null,
        gain: null,
        amplifierOffset: 0,
        coldJunction: null,
        provenance: 'assumed',
        note: '',
        bits: defaults.adc_bits,
        capacity: null,
        lamp: defaults.lamp_share_pct,
        freeze: defaults.freeze_rpm,
        deadZone: defaults.dead_zone_pct,
    };
}

/** The draft that shows a saved sensor, or one of a library. */
export function draftOf(sensor: Sensor, definition: SensorFunction, defaults: Defaults): Draft {
    const { transfer } = sensor;
    const draft: Draft = {
        ...emptyDraft(definition, defaults),
        name: sensor.name,
        kind: transfer.kind,
        provenance: sensor.provenance,
        note: sensor.note,
        bits: sensor.adc_bits,
        capacity: sensor.capacity_l ?? null,
        lamp: sensor.lamp_share_pct,
        freeze: sensor.freeze_rpm,
        deadZone: sensor.dead_zone_pct,
    };
    if (transfer.kind === 'thermocouple') {
        return {
            ...draft,
            gain: transfer.gain_v_per_mv,
            amplifierOffset: transfer.offset_v,
            coldJunction: transfer.cold_junction_c ?? null,
        };
    }
    const points = (transfer.points ?? []).map((point) => [...point]);
    if (transfer.kind === 'thermistor') {
        const beta = transfer.beta_k ?? null;
        return {
            ...draft,
            way: beta === null ? 'points' : 'beta',
            points,
            beta,
            pullUp: transfer.pull_up_ohm,
            supply: transfer.supply_v,
        };
    }
    if (transfer.kind === 'table' || points.length) return { ...draft, points };
    return { ...draft, way: 'slope', slope: transfer.slope ?? null, offset: transfer.offset ?? null };
}

type Point = number[];

function whole(rows: Row[]): Point[] {
    return rows.filter((row): row is Point => row.length === 2 && row.every((cell) => cell !== null));
}

function transferOf(draft: Draft, defaults: Defaults): Sensor['transfer'] | null {
    const points = whole(draft.points);
    switch (draft.kind) {
        case 'thermocouple':
            return draft.gain === null
                ? null
                : {
                      kind: 'thermocouple',
                      gain_v_per_mv: draft.gain,
                      offset_v: draft.amplifierOffset ?? 0,
                      cold_junction_c: draft.coldJunction,
                  };
        case 'thermistor':
            if (draft.pullUp === null || !points.length) return null;
            if (draft.way === 'beta' && draft.beta === null) return null;
            return {
                kind: 'thermistor',
                points: draft.way === 'beta' ? points.slice(0, 1) : points,
                beta_k: draft.way === 'beta' ? draft.beta : null,
                pull_up_ohm: draft.pullUp,
                supply_v: draft.supply ?? defaults.supply_v,
            };
        case 'table':
            return points.length ? { kind: 'table', points } : null;
        default:
            if (draft.way === 'slope') {
                if (draft.slope === null || draft.offset === null) return null;
                return { kind: draft.kind, slope: draft.slope, offset: draft.offset };
            }
            return points.length ? { kind: draft.kind, points } : null;
    }
}

/** The sensor to send; null while there is not yet enough of it. */
export function sensorOf(draft: Draft, defaults: Defaults): Sensor | null {
    const transfer = transferOf(draft, defaults);
    if (transfer === null) return null;
    return {
        function: draft.function,
        name: draft.name,
        transfer,
        provenance: draft.provenance,
        note: draft.note,
        adc_bits: draft.bits,
        capacity_l: draft.capacity,
        lamp_share_pct: draft.lamp ?? defaults.lamp_share_pct,
        freeze_rpm: draft.freeze ?? defaults.freeze_rpm,
        dead_zone_pct: draft.deadZone ?? defaults.dead_zone_pct,
    };
}
