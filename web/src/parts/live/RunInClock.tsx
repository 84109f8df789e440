import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useState } from 'react';

import { countRunIn } from '../../api/live';
import { inUnits } from '../../units/said';
import { useJob } from '../jobContext';
import { Mark } from '../Mark';
import { ProblemNote } from '../ProblemNote';
import { Alarm } from './alarm';
import type { Live } from './useLive';

/** The run-in clock: what counts is counted by the server; outside the band it says so, by shape and by sound. */
export function RunInClock({ live: { session, link, view } }: { live: Live }) {
    const { job } = useJob();
    const [isCounting, setCounting] = useState(false);
    const [hasSound, setSound] = useState(true);
    const count = useMutation({
        mutationFn: (on: boolean) => countRunIn(job.id, session.id, on),
        onSuccess: (state, on) => (link.told(state), setCounting(on)),
    });
    const clock = view.state?.run_in;
    const isOutside = isCounting && clock?.inside === false && !clock.done;
    useEffect(() => {
        if (!isOutside || !hasSound) return undefined;
        const alarm = new Alarm();
        return () => alarm.stop();
    }, [isOutside, hasSound]);
    const counted = clock?.counted_s ?? 0;
    const whole = counted + (clock?.left_s ?? 1);
    return (
        <Box component="section" aria-label="Run-in clock" sx={{ mb: 2 }}>
            <Box sx={{ display: 'flex', gap: 2, alignItems: 'center', flexWrap: 'wrap', mb: 1 }}>
                <Button variant="outlined" sx={{ minHeight: 56, minWidth: 150 }} disabled={count.isPending} onClick={() => count.mutate(!isCounting)}>
                    {isCounting ? 'Pause the run-in' : counted > 0 ? 'Go on with it' : 'Count the run-in'}
                </Button>
                <Button aria-pressed={hasSound} onClick={() => setSound(!hasSound)}>
                    {hasSound ? 'Sound is on' : 'Sound is off'}
                </Button>
                {isCounting && clock && <Mark state={clock.inside ? 'pass' : 'suspicious'} word={false} />}
                {isCounting && clock && <Typography sx={{ fontWeight: 650 }}>{clock.inside ? 'inside the band' : 'outside the band: it does not count'}</Typography>}
            </Box>
            <Box role="meter" aria-label="Run-in counted" aria-valuemin={0} aria-valuemax={100} aria-valuenow={Math.round((100 * counted) / whole)} sx={{ height: 14, border: 1, borderColor: 'divider' }}>
                <Box sx={{ height: '100%', width: `${(100 * counted) / whole}%`, bgcolor: 'primary.main' }} />
            </Box>
            {clock && <Typography sx={{ mt: 0.5 }}>{inUnits(clock.sentence, job.units)}</Typography>}
            {count.error && <ProblemNote error={count.error} />}
        </Box>
    );
}
