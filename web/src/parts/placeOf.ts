import type { CellChange } from '../api/client';
import { formatNumber, shownUnit, toShown } from '../units/units';

const AXIS_UNITS: Record<string, string> = { coolant_c: '°C', rpm: 'rpm', map_kpa: 'kPa', battery_v: 'V' };

/** Where a cell lies, in display units: "20 °C", "900 rpm, 40 kPa". */
export function placeOf(change: CellChange, axes: string[], units: Record<string, string>): string {
    return change.at
        .map((at, i) => {
            const unit = AXIS_UNITS[axes[i] ?? ''] ?? '';
            return `${formatNumber(toShown(at, unit, units), 0)} ${shownUnit(unit, units)}`;
        })
        .join(', ');
}
