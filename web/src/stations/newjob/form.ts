import type { Schemas } from '../../api/client';
import { fromShown, parseNumber, type UnitChoice } from '../../units/units';

export type EngineEntry = Schemas['EngineEntry'];

/** What is typed; numbers stay text until they are sent, so nothing half-typed is lost. */
export interface Form {
    name: string;
    note: string;
    displacement: string;
    chambers: string;
    cycle: 'four_stroke' | 'rotary';
    compression: string;
    valves: string;
    cam: 'mild' | 'moderate' | 'wild';
    fuelling: 'port' | 'throttle_body';
    boost: string;
    ethanol: string;
    revLimit: string;
    injectorCount: string;
    injectorFlow: string;
    ratedPressure: string;
    railPressure: string;
    injections: string;
    deadTime: string;
    coolantAxis: string;
    idle: 'low' | 'high';
    prime: 'shot' | 'cranking_only';
    mixture: 'rich' | 'lean';
    curve: 'full' | 'three_point';
    overrideReason: string;
}

export const EMPTY: Form = {
    name: '',
    note: '',
    displacement: '',
    chambers: '4',
    cycle: 'four_stroke',
    compression: '9,5',
    valves: '4',
    cam: 'mild',
    fuelling: 'port',
    boost: '0',
    ethanol: '0',
    revLimit: '6500',
    injectorCount: '',
    injectorFlow: '',
    ratedPressure: '',
    railPressure: '',
    injections: '1',
    deadTime: '',
    coolantAxis: '',
    idle: 'low',
    prime: 'shot',
    mixture: 'rich',
    curve: 'full',
    overrideReason: '',
};

/** Engine data of a form, or null while a needed number is missing. */
export function engineOf(form: Form, units: UnitChoice): EngineEntry | null {
    const number = (text: string, fallback?: number): number | null =>
        text.trim() === '' && fallback !== undefined ? fallback : parseNumber(text);
    const shown = (text: string, unit: string, fallback: number): number | null => {
        const value = parseNumber(text);
        if (value === null) return text.trim() === '' ? fallback : null;
        return fromShown(value, unit, units);
    };
    const displacement = number(form.displacement);
    const chambers = number(form.chambers);
    const flow = shown(form.injectorFlow, 'cm³/min', NaN);
    const rest = {
        compression: number(form.compression, 9.5),
        valves: number(form.valves, 4),
        boost: shown(form.boost, 'kPa', 0),
        ethanol: number(form.ethanol, 0),
        revLimit: number(form.revLimit, 6500),
        rated: shown(form.ratedPressure, 'kPa', 300),
        rail: shown(form.railPressure, 'kPa', 300),
        injections: number(form.injections, 1),
        count: number(form.injectorCount, chambers ?? 0),
    };
    if (displacement === null || chambers === null || flow === null || Number.isNaN(flow)) return null;
    if (Object.values(rest).some((value) => value === null)) return null;
    const known = rest as Record<keyof typeof rest, number>;
    return {
        displacement_l: displacement,
        chambers: Math.round(chambers),
        cycle: form.cycle,
        compression_ratio: known.compression,
        valves_per_chamber: Math.round(known.valves),
        cam: form.cam,
        fuelling: form.fuelling,
        induction: known.boost > 0 ? 'boosted' : 'natural',
        boost_kpa: known.boost,
        ethanol_volume_share: known.ethanol / 100,
        rev_limit_rpm: known.revLimit,
        rail_pressure_kpa: known.rail,
        injections_per_cycle: Math.round(known.injections),
        injectors: {
            count: Math.round(known.count),
            flow_cm3_min: flow,
            rated_pressure_kpa: known.rated,
            dead_time: deadTimeOf(form.deadTime),
        },
        schools: {
            prime: form.prime,
            idle_speed: form.idle,
            idle_mixture: form.mixture,
            step: 'auto',
            curve: form.curve,
        },
    } as EngineEntry;
}

/** Pairs such as "8 2,5; 10 1,7" as a dead-time curve; null where nothing is typed. */
export function deadTimeOf(text: string): Schemas['DeadTimeSheet'] | null {
    const pairs = text
        .split(/[;\n]/)
        .map((pair) => pair.trim().split(/[\s:=]+/))
        .filter((pair) => pair.length === 2);
    const numbers = pairs.map(([volt, time]) => [parseNumber(volt ?? ''), parseNumber(time ?? '')]);
    if (numbers.length === 0 || numbers.some((pair) => pair.includes(null))) return null;
    return {
        voltage_v: numbers.map((pair) => pair[0] as number),
        dead_time_ms: numbers.map((pair) => pair[1] as number),
    };
}

/** Breakpoints such as "-20 0 20 40" in the shown unit; null where nothing is typed. */
export function axisOf(text: string, units: UnitChoice): number[] | null {
    const parts = text.split(/[\s;]+/).filter(Boolean);
    const numbers = parts.map(parseNumber);
    if (numbers.length === 0 || numbers.includes(null)) return null;
    return (numbers as number[]).map((value) => fromShown(value, '°C', units));
}
