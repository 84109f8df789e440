import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { formatNumber, shownUnit, toShown } from '../../units/units';
import { SmallTable } from '../../parts/SmallTable';
import type { SensorFunction } from './draft';

/** What the controller would show if the pull-up or the wire were not as entered. */
export function WhatIfs({ definition, sheet }: { definition: SensorFunction; sheet: Schemas['SensorSheet'] }) {
    const { job } = useJob();
    if (!sheet.what_ifs.length) return null;
    const shown = (value: number) => formatNumber(toShown(value, definition.unit, job.units), 0);
    return (
        <SmallTable
            title="What a mistake would read"
            heads={[`truly, ${shownUnit(definition.unit, job.units)}`, ...sheet.true_points.map(shown)]}
            rows={sheet.what_ifs.map((row) => [row.case, ...row.readings.map(shown)])}
            wide
        />
    );
}
