import type { CellChange, Vocabulary } from '../api/client';
import { formatNumber, shownUnit, toShown, type UnitChoice } from '../units/units';

/** Where a cell lies, in display units: "20 °C", "900 rpm, 40 kPa". */
export function placeOf(change: Pick<CellChange, 'at'>, axes: readonly string[], known: Vocabulary['axes'], units: UnitChoice): string {
    return change.at
        .map((at, i) => {
            const unit = known.find(({ name }) => name === axes[i])?.unit ?? '';
            return `${formatNumber(toShown(at, unit, units), 0)} ${shownUnit(unit, units)}`.trim();
        })
        .join(', ');
}
