/** Display units: values travel in canonical units; here they are shown and typed in others. */

export type UnitChoice = Record<string, string>;

interface Conversion {
    factor: number;
    offset: number;
}

const SAME: Conversion = { factor: 1, offset: 0 };

/** What the server says of units, told once before anything is shown. */
let dimensions: Record<string, string> = {};
let conversions: Record<string, Record<string, Conversion>> = {};

/** Learn which units there are and how each is shown. */
export function learnUnits(choices: Record<string, string[]>, how: Record<string, Record<string, Conversion>>): void {
    dimensions = Object.fromEntries(Object.entries(choices).map(([dimension, units]) => [units[0] ?? '', dimension]));
    conversions = how;
}

function choiceFor(canonical: string, units: UnitChoice): string {
    return units[dimensions[canonical] ?? ''] ?? canonical;
}

function conversion(canonical: string, units: UnitChoice): Conversion {
    return conversions[dimensions[canonical] ?? '']?.[choiceFor(canonical, units)] ?? SAME;
}

/** A unit as people name it: a mixture travels without one, and is called lambda. */
export function namedUnit(unit: string): string {
    return unit === '–' ? 'lambda' : unit;
}

/** The unit in which a canonical unit is shown. */
export function shownUnit(canonical: string, units: UnitChoice): string {
    return choiceFor(canonical, units);
}

/** A canonical value in the shown unit. */
export function toShown(value: number, canonical: string, units: UnitChoice): number {
    const { factor, offset } = conversion(canonical, units);
    return value * factor + offset;
}

/** A typed value in the canonical unit. */
export function fromShown(value: number, canonical: string, units: UnitChoice): number {
    const { factor, offset } = conversion(canonical, units);
    return (value - offset) / factor;
}

/** A number as typed, decimal comma accepted; null while it is not yet a number. */
export function parseNumber(text: string): number | null {
    const trimmed = text.trim().replace(/\s/g, '').replace('−', '-').replace(',', '.');
    if (!/^[+-]?(\d+\.?\d*|\.\d+)$/.test(trimmed)) return null;
    return Number(trimmed);
}

/** A number with a fixed number of decimals and a real minus sign. */
export function formatNumber(value: number, decimals: number): string {
    const text = value.toFixed(decimals);
    const plain = Number(text) === 0 ? text.replace('-', '') : text;
    return plain.replace('-', '−');
}

/** A number with at most so many decimals, none of them idle zeros. */
export function plainNumber(value: number, decimals: number): string {
    return String(Number(value.toFixed(decimals))).replace('-', '−');
}

/** Decimals that a table's resolution asks for. */
export function decimalsOf(resolution: number): number {
    return Math.max(0, Math.ceil(-Math.log10(resolution) - 1e-9));
}
