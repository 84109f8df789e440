import { useJob } from '../app/jobContext';
import { formatNumber, shownUnit, toShown } from '../app/units';

/** A computed value in the job's unit, as it stands in a sentence or a cell. */
export function useShown() {
    const { job } = useJob();
    return (value: number, canonical: string, decimals: number) => {
        const unit = shownUnit(canonical, job.units);
        // A psi is seven times a kPa: small units need a digit more.
        const digits = unit === canonical ? decimals : decimals + (unit === 'bar' ? 2 : unit === 'psi' ? 1 : 0);
        return `${formatNumber(toShown(value, canonical, job.units), digits)} ${unit}`.trim();
    };
}
