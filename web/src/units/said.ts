/** Sentences in the units of the job: the one place where their quantities are formatted. */

import { formatNumber, shownUnit, toShown, type UnitChoice } from './units';

/** A number in a sentence, canonical, with the decimals that the instrument justifies. */
export interface Quantity {
    value: number;
    unit: string;
    decimals: number;
    bare: boolean;
    signed: boolean;
}

/** A sentence as it travels: {0}, {1} … stand for the quantities; other braces are doubled. */
export interface Said {
    template: string;
    quantities: Quantity[];
}

const MOST_KEPT = 20_000;
/** What was said lately, by its canonical text. */
const known = new Map<string, Said>();

/** Keep the templates of an answer's sentences, so that their text can be shown in any units. */
export function learnSaid(data: unknown): void {
    if (Array.isArray(data)) {
        // Samples and values are long and hold no sentence: one look at the first is enough.
        if (typeof data[0] === 'object') data.forEach(learnSaid);
        return;
    }
    if (data === null || typeof data !== 'object') return;
    const members = data as Record<string, unknown>;
    for (const [name, said] of Object.entries((members.said ?? {}) as Record<string, Said | (Said | null)[]>)) {
        const texts = [members[name]].flat();
        [said].flat().forEach((entry, i) => {
            if (entry && typeof texts[i] === 'string') keep(texts[i], entry);
        });
    }
    Object.values(members).forEach(learnSaid);
}

function keep(text: string, said: Said): void {
    if (known.size >= MOST_KEPT) known.delete(known.keys().next().value ?? '');
    known.set(text, said);
}

/** Units of the job that is open; none outside a job. */
let inForce: UnitChoice = {};

export function setUnitsInForce(units: UnitChoice): void {
    inForce = units;
}

/** A sentence of the server in the units of the open job, or in those given. */
export function inUnits(sentence: string, units: UnitChoice = inForce): string {
    const said = known.get(sentence);
    return said ? filled(said, units) : sentence;
}

/** A template with its quantities in the chosen units. */
export function filled({ template, quantities }: Said, units: UnitChoice): string {
    return template.replace(/\{\{|\}\}|\{(\d+)\}/g, (whole, at: string | undefined) => {
        const quantity = at === undefined ? undefined : quantities[Number(at)];
        return quantity ? shownQuantity(quantity, units) : whole.slice(0, 1);
    });
}

/** A quantity with its unit; a mixture has its name in front. */
export function shownQuantity({ value, unit, decimals, bare, signed }: Quantity, units: UnitChoice): string {
    // A difference of temperatures is converted without the zero of the scale.
    const isDifference = unit === 'K';
    const canonical = isDifference ? '°C' : unit;
    const chosen = shownUnit(canonical, units);
    const zero = toShown(0, canonical, units);
    const factor = toShown(1, canonical, units) - zero;
    const shown = isDifference ? value * factor : toShown(value, canonical, units);
    const text = formatNumber(shown, decimalsFor(decimals, factor));
    const number = signed && shown > 0 && /[1-9]/.test(text) ? `+${text}` : text;
    if (bare) return number;
    if (canonical === 'lambda') return `${chosen} ${number}`;
    return `${number} ${isDifference && chosen === '°C' ? 'K' : chosen}`;
}

/** As many decimals as say no more than the canonical number did. */
export function decimalsFor(decimals: number, factor: number): number {
    return Math.max(0, Math.round(decimals - Math.log10(Math.abs(factor))));
}
