import type { Job } from '../api/client';

/** The engine of a job in one line. */
export function describeEngine(job: Job): string {
    const { engine } = job;
    const chambers = engine.cycle === 'rotary' ? `${engine.chambers} rotors` : `${engine.chambers} cylinders`;
    const where = engine.fuelling === 'port' ? 'port injection' : 'throttle-body injection';
    const ethanol = engine.ethanol_volume_share
        ? `, ${Math.round(100 * engine.ethanol_volume_share)} % ethanol`
        : '';
    const boost = engine.induction === 'boosted' ? `, boost ${engine.boost_kpa} kPa` : '';
    return `${engine.displacement_l} l, ${chambers}, ${where}${boost}${ethanol}`;
}
