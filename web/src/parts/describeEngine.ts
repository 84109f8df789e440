import type { Job } from '../api/client';
import { plainNumber, shownUnit, toShown } from '../units/units';

/** The engine of a job in one line, in the job's units. */
export function describeEngine({ engine, units }: Pick<Job, 'engine' | 'units'>): string {
    const chambers = engine.cycle === 'rotary' ? `${engine.chambers} rotors` : `${engine.chambers} cylinders`;
    const where = engine.fuelling === 'port' ? 'port injection' : 'throttle-body injection';
    const parts = [`${plainNumber(engine.displacement_l, 3)} l`, chambers, where];
    if (engine.induction === 'boosted') {
        const boost = toShown(engine.boost_kpa, 'kPa', units);
        const unit = shownUnit('kPa', units);
        parts.push(`boost ${plainNumber(boost, unit === 'bar' ? 2 : unit === 'psi' ? 1 : 0)} ${unit}`);
    }
    if (engine.ethanol_volume_share) parts.push(`${Math.round(100 * engine.ethanol_volume_share)} % ethanol`);
    return parts.join(', ');
}
