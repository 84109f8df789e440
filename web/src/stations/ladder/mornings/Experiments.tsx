import type { Mornings } from '../../../api/mornings';
import { SmallTable } from '../../../parts/SmallTable';
import { useShown } from '../../../parts/useShown';

const KINDS: Record<string, string> = { cold: 'true cold start', 'half-warm': 'half-warm restart', hot: 'dry hot restart' };

/** What can be tried, by what its outcome would say of the check temperatures. */
export function Experiments({ experiments }: { experiments: Mornings['experiments'] }) {
    const shown = useShown();
    const most = Math.max(...experiments.map((e) => e.teaches));
    const rows = experiments.map((e) => [
        KINDS[e.kind] ?? e.kind,
        shown(e.coolant_c, '°C', 0),
        e.after_h === null ? 'morning' : shown(e.after_h, 'h', 1),
        most > 0 ? `${Math.round((100 * e.teaches) / most)} %` : '–',
    ]);
    return (
        <SmallTable
            wide
            title="What a trial would teach"
            heads={['Trial', 'coolant', 'stood', 'teaches']}
            rows={rows}
            foot="Of the check temperatures, against the trial that teaches most."
        />
    );
}
