import { fromShown, parseNumber, type UnitChoice } from '../../units/units';

/** What a log does not know of a start; text until it is sent. */
export interface Circumstances {
    coolant: string;
    ambient: string;
    soak: string;
    revision: string;
    attempt: string;
    smoke: boolean;
    smell: boolean;
}

export const NO_CIRCUMSTANCES: Circumstances = { coolant: '', ambient: '', soak: '', revision: '', attempt: '', smoke: false, smell: false };

/** Circumstances as the server wants them; null where nothing was typed. */
export function circumstancesOf(typed: Circumstances, units: UnitChoice) {
    const temperature = (text: string) => {
        const value = parseNumber(text);
        return value === null ? null : fromShown(value, '°C', units);
    };
    return {
        coolant_c: temperature(typed.coolant),
        ambient_c: temperature(typed.ambient),
        soak_h: parseNumber(typed.soak),
        revision: parseNumber(typed.revision),
        attempt: parseNumber(typed.attempt) ?? 1,
        black_smoke: typed.smoke,
        fuel_smell: typed.smell,
    };
}
