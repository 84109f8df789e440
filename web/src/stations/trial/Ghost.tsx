import type { Trial } from '../../api/client';
import { CurvePlot } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { shownUnit, toShown } from '../../units/units';

type Part = Pick<Trial['advice'][number], 'changes' | 'bands'>;

/** A proposal of many cells: what is in force as a ghost, what is proposed, and its band. */
export function Ghost({ part, title, unit }: { part: Part; title: string; unit: string }) {
    const { job } = useJob();
    const line = (value: (i: number) => number | null) =>
        part.changes.map((change, i) => [toShown(change.at[0] ?? 0, '°C', job.units), value(i)] as const);
    const banded = part.bands.length === part.changes.length;
    return (
        <CurvePlot
            title={`${title}: before and after`}
            xLabel={`coolant, ${shownUnit('°C', job.units)}`}
            yLabel={unit}
            series={[
                { name: 'proposed', points: line((i) => part.changes[i]?.to ?? null) },
                { name: 'in force', points: line((i) => part.changes[i]?.from ?? null), look: 'broken' },
                ...(banded
                    ? [
                          { name: 'nine of ten lie between', points: line((i) => part.bands[i]?.[0] ?? null), look: 'faint' as const },
                          { name: '', points: line((i) => part.bands[i]?.[1] ?? null), look: 'faint' as const },
                      ]
                    : []),
            ]}
            height={240}
        />
    );
}
