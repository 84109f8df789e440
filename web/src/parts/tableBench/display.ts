import type { Schemas } from '../../api/client';
import { decimalsOf, shownUnit, toShown, fromShown, type UnitChoice, namedUnit } from '../../units/units';

/** How the values of a table are shown and typed. */
export interface Display {
    unit: string;
    canonicalUnit: string;
    /** Smallest step, shown. */
    step: number;
    decimals: number;
    isCanonical: boolean;
    show: (value: number) => number;
    read: (shown: number) => number;
    factor: number;
    offset: number;
}

/** The controller's own unit where it differs; else the job's display unit. */
export function displayOf(
    definition: Schemas['TableDefinition'],
    form: Schemas['ControllerForm'] | undefined,
    units: UnitChoice,
    wantsCanonical: boolean,
): Display {
    const canonicalUnit = definition.unit;
    if (form?.known && !wantsCanonical && (form.factor !== 1 || form.offset !== 0)) {
        return {
            unit: form.unit,
            canonicalUnit,
            step: form.step,
            decimals: decimalsOf(form.step),
            isCanonical: false,
            show: (value) => value * form.factor + form.offset,
            read: (shown) => (shown - form.offset) / form.factor,
            factor: form.factor,
            offset: form.offset,
        };
    }
    // A mixture travels without a unit in the tables; people choose lambda or a ratio.
    const name = namedUnit(canonicalUnit);
    const unit = shownUnit(name, units);
    const offset = toShown(0, name, units);
    const factor = toShown(1, name, units) - offset;
    const step = definition.resolution * Math.abs(factor);
    return {
        unit,
        canonicalUnit,
        step,
        decimals: unit === name ? decimalsOf(definition.resolution) : Math.max(0, Math.min(3, decimalsOf(step))),
        isCanonical: unit === name,
        show: (value) => toShown(value, name, units),
        read: (shown) => fromShown(shown, name, units),
        factor,
        offset,
    };
}
