import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation } from '@tanstack/react-query';

import type { Schemas } from '../../api/client';
import { readLight } from '../../api/live';
import { useJob } from '../../parts/jobContext';
import type { Live } from '../../parts/live';
import { ProblemNote } from '../../parts/ProblemNote';
import { useShown } from '../../parts/useShown';
import { formatNumber } from '../../units/units';

interface TakeProps {
    reading: Schemas['Reading'];
    live: Live | null;
    onTake: (value: number) => void;
}

const DECIMALS: Record<string, number> = { V: 1, '°C': 0, kPa: 0, rpm: 0, s: 1, min: 1, '–': 2 };

/** Take what the link reads now instead of typing it. */
export function TakeReading({ reading, live, onTake }: TakeProps) {
    const shown = useShown();
    const value = live?.view.state?.readings[reading.key];
    // The link names every reading that it can give, null as long as it has none.
    if (value === undefined) return null;
    // It stays where it is: nobody should hit what slides away under the thumb.
    return (
        <Button fullWidth variant="outlined" sx={{ mt: 0.75, minHeight: 48 }} disabled={value === null} onClick={() => value !== null && onTake(value)}>
            {value === null ? 'Not read yet' : `Take ${shown(value, reading.unit === '–' ? '' : reading.unit, DECIMALS[reading.unit] ?? 1)}`}
        </Button>
    );
}

/** The timing light on the running engine, its timing locked. */
export function ReadLight({ live: { session, view }, onRead }: { live: Live; onRead: (value: number) => void }) {
    const { job } = useJob();
    const read = useMutation({
        mutationFn: () => readLight(job.id, session.id),
        onSuccess: ({ off_deg }) => onRead(off_deg),
    });
    const locked = view.state?.controls.lock_timing_deg;
    return (
        <>
            <Button variant="outlined" sx={{ minHeight: 56, mb: 1.5 }} disabled={locked == null || read.isPending} onClick={() => read.mutate()}>
                Hold the light on the mark
            </Button>
            {locked == null && <Typography variant="body2">Lock the timing below first.</Typography>}
            {read.data && (
                <Typography sx={{ mb: 1 }}>
                    Commanded {formatNumber(read.data.commanded_deg, 1)}°, seen {formatNumber(read.data.seen_deg, 1)}°.
                </Typography>
            )}
            {read.error && <ProblemNote error={read.error} />}
        </>
    );
}
