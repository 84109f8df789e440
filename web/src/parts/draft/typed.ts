import type { Schemas } from '../../api/client';
import { parseNumber, plainNumber } from '../../units/units';

interface Shown {
    unit: string;
    decimals: number;
    show: (value: number) => number;
    read: (shown: number) => number;
}

/** A typed value in the canonical unit, or why it is refused; the bounds are the server's. */
export function typedValue(
    text: string,
    { lower, upper, title }: Pick<Schemas['TableDefinition'], 'lower' | 'upper' | 'title'>,
    { unit, decimals, show, read }: Shown,
): { value: number } | { refusal: string } {
    const number = parseNumber(text);
    if (number === null) return { refusal: `“${text}” is not a number.` };
    const value = Number(read(number).toPrecision(9));
    if (value >= lower && value <= upper) return { value };
    const [low, high] = [show(lower), show(upper)].sort((a, b) => a - b) as [number, number];
    const between = `between ${plainNumber(low, decimals)} and ${plainNumber(high, decimals)} ${unit}`.trim();
    return { refusal: `${title} must be ${between}, not ${text}.` };
}
