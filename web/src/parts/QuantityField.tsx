import { useJob } from './jobContext';
import { NumberField } from './NumberField';
import { useQuantityText } from './quantity';

interface Props {
    label: string;
    /** Canonical unit; it is shown and typed in the job's own. */
    unit: string;
    value: number | null | undefined;
    onChange: (value: number | null) => void;
    error?: string | undefined;
    help?: string;
    required?: boolean;
    placeholder?: string;
}

/** A number with a unit: canonical inside, in the job's display unit on the screen. */
export function QuantityField({ label, unit, value, onChange, error, ...rest }: Props) {
    const { job } = useJob();
    const field = useQuantityText(value, unit, job.units, onChange);
    return (
        <NumberField
            label={label}
            unit={field.unit}
            value={field.text}
            onChange={field.type}
            error={error ?? (field.isNonsense ? 'This is not a number.' : undefined)}
            {...rest}
        />
    );
}
