import type { Schemas, Vocabulary } from '../../api/client';
import { fromShown, parseNumber, plainNumber, shownUnit, toShown, type UnitChoice } from '../../units/units';

export type EngineEntry = Schemas['EngineEntry'];
export type EngineField = Vocabulary['engine_fields'][number];

/** What is typed; numbers stay text until they are sent, so nothing half-typed is lost. */
export interface Form {
    name: string;
    note: string;
    /** Where the car stands: one of the server's. */
    car: Vocabulary['car_begins'][number]['key'];
    /** Numbers of the engine by their path, as typed. */
    numbers: Record<string, string>;
    cycle: 'four_stroke' | 'rotary';
    cam: 'mild' | 'moderate' | 'wild';
    fuelling: 'port' | 'throttle_body';
    /** Choices on which good installers differ; what is not here is left to the server. */
    schools: Record<string, string>;
    deadTime: string;
    coolantAxis: string;
    overrideReason: string;
}

export const EMPTY: Form = {
    name: '',
    note: '',
    car: 'bare',
    numbers: {},
    cycle: 'four_stroke',
    cam: 'mild',
    fuelling: 'port',
    schools: {},
    deadTime: '',
    coolantAxis: '',
    overrideReason: '',
};

/** A share is typed in percent, everything else in the job's unit. */
const isShare = (path: string) => path.endsWith('_share');

/** Unit in which a field is typed. */
export function unitOf(field: EngineField, units: UnitChoice): string {
    return isShare(field.path) ? '%' : shownUnit(field.unit, units);
}

/** The server's default of a field as it would be typed; undefined where there is none. */
export function defaultText(field: EngineField, units: UnitChoice): string | undefined {
    if (field.default === null) return undefined;
    const shown = isShare(field.path) ? 100 * field.default : toShown(field.default, field.unit, units);
    return plainNumber(shown, shownUnit(field.unit, units) === field.unit ? 3 : 1);
}

/** A typed field in canonical units: undefined where nothing is typed, null where it is no number. */
export function numberOf(text: string | undefined, field: EngineField, units: UnitChoice): number | null | undefined {
    if (text === undefined || text.trim() === '') return undefined;
    const typed = parseNumber(text);
    if (typed === null) return null;
    return isShare(field.path) ? typed / 100 : fromShown(typed, field.unit, units);
}

/** Engine data of a form, or null while a needed number is missing or half-typed. */
export function engineOf(form: Form, fields: readonly EngineField[], units: UnitChoice): EngineEntry | null {
    const engine: Record<string, unknown> = {};
    const injectors: Record<string, unknown> = {};
    for (const field of fields) {
        const value = numberOf(form.numbers[field.path], field, units);
        if (value === null || (value === undefined && field.needed)) return null;
        if (value === undefined) continue;
        const [first = '', second] = field.path.split('.');
        if (second === undefined) engine[first] = value;
        else injectors[second] = value;
    }
    return {
        ...engine,
        cycle: form.cycle,
        cam: form.cam,
        fuelling: form.fuelling,
        induction: Number(engine.boost_kpa ?? 0) > 0 ? 'boosted' : 'natural',
        injectors: { ...injectors, dead_time: deadTimeOf(form.deadTime) },
        schools: form.schools,
    } as unknown as EngineEntry;
}

/** Whether something is typed that cannot be read as pairs of volts and milliseconds. */
export const isOddDeadTime = (text: string) => {
    const parts = text.split(/[;\n]/).filter((part) => part.trim());
    return parts.length > 0 && deadTimeOf(text)?.voltage_v.length !== parts.length;
};

/** Whether something is typed that cannot be read as breakpoints. */
export const isOddAxis = (text: string, units: UnitChoice) => text.trim() !== '' && axisOf(text, units) === null;

/** Pairs such as "8 2.5; 10 1.7" as a dead-time curve; null where nothing is typed. */
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
