import { useState } from 'react';

import { fromShown, parseNumber, shownUnit, toShown, type UnitChoice } from '../units/units';

/** A number as somebody would type it: as it is, or shortened where it was converted. */
function plain(value: number, isConverted: boolean): string {
    return String(Number(value.toPrecision(isConverted ? 5 : 9)));
}

interface Typed {
    text: string;
    value: number | null;
    unit: string;
}

/**
 * The text of a field that holds a canonical number. What is typed stays as typed, decimal comma
 * and half-typed numbers too; a value or a unit that changes from outside is written anew.
 */
export function useQuantityText(
    value: number | null | undefined,
    canonical: string,
    units: UnitChoice,
    onChange: (value: number | null) => void,
) {
    const now = value ?? null;
    const unit = shownUnit(canonical, units);
    const [typed, setTyped] = useState<Typed | null>(null);
    const isOwn = typed !== null && typed.value === now && typed.unit === unit;
    const text = isOwn ? typed.text : now === null ? '' : plain(toShown(now, canonical, units), unit !== canonical);
    const type = (next: string) => {
        const number = parseNumber(next);
        const result = number === null ? null : fromShown(number, canonical, units);
        setTyped({ text: next, value: result, unit });
        if (result !== now) onChange(result);
    };
    const isNonsense = text.trim() !== '' && parseNumber(text) === null;
    return { text, type, unit, isNonsense };
}
