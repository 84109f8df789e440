import { useJob } from './jobContext';
import { formatNumber, shownUnit, toShown } from '../units/units';

const MORE_DIGITS: Record<string, number> = { bar: 2, psi: 1, AFR: -2 };

/** A computed value in the job's unit, as it stands in a sentence or a cell. */
export function useShown() {
    const { job } = useJob();
    return (value: number, canonical: string, decimals: number) => {
        const unit = shownUnit(canonical, job.units);
        // A psi is seven times a kPa: small units need a digit more, large numbers fewer.
        const more = unit === canonical ? 0 : (MORE_DIGITS[unit] ?? 0);
        const digits = Math.max(0, decimals + more);
        return `${formatNumber(toShown(value, canonical, job.units), digits)} ${unit}`.trim();
    };
}
