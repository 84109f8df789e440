import { parseNumber } from '../units/units';

/** Numbers parted by blanks, semicolons or dashes; null while one of them is none. */
export function numbersOf(text: string): number[] | null {
    const parts = text.split(/[\s;]+/).filter(Boolean);
    const numbers = parts.map((part) => parseNumber(part.replace(/,$/, '')));
    return numbers.every((value): value is number => value !== null) ? numbers : null;
}

/** Numbers as one would type them. */
export function textOf(numbers: readonly number[]): string {
    return numbers.map((value) => String(Number(value.toPrecision(7)))).join(' ');
}
