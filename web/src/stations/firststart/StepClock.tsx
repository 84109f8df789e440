import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';

import type { Schemas } from '../../api/client';
import { mono } from '../../parts/theme';

interface Props {
    clock: Schemas['Clock'];
    onTick: (seconds: number) => void;
}

function face(seconds: number): string {
    const whole = Math.max(0, Math.round(seconds));
    return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`;
}

/** Counts up to what is allowed, then the rest of the starter down; a pause stands still. */
export function StepClock({ clock, onTick }: Props) {
    const [passed, setPassed] = useState(0);
    const [isRunning, setRunning] = useState(false);
    const rest = clock.rest_s ?? 0;
    const isResting = passed >= clock.seconds;
    const ends = clock.seconds + rest;
    useEffect(() => {
        if (!isRunning) return undefined;
        const began = performance.now() - passed * 1000;
        const timer = window.setInterval(() => {
            const now = Math.min(ends, (performance.now() - began) / 1000);
            setPassed(now);
            onTick(Math.min(now, clock.seconds));
            if (now >= ends) setRunning(false);
        }, 200);
        return () => window.clearInterval(timer);
        // eslint-disable-next-line react-hooks/exhaustive-deps -- it begins where it stood
    }, [isRunning, ends]);
    return (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, mb: 2, flexWrap: 'wrap' }}>
            <Typography role="timer" sx={{ fontFamily: mono, fontSize: '2.4rem', minWidth: 130 }}>
                {isResting && rest > 0 ? face(ends - passed) : face(passed)}
            </Typography>
            <Box sx={{ flex: 1, minWidth: 140 }}>
                <Typography variant="body2">
                    {isResting && rest > 0 ? (passed >= ends ? 'The starter has rested.' : 'The starter rests.') : `of ${face(clock.seconds)}${rest ? `, then ${rest} s of rest` : ''}`}
                </Typography>
            </Box>
            <Button variant="outlined" sx={{ minHeight: 56, minWidth: 120 }} onClick={() => (passed >= ends ? setPassed(0) : setRunning(!isRunning))}>
                {isRunning ? 'Pause' : passed >= ends ? 'Again' : passed > 0 ? 'Go on' : 'Start the clock'}
            </Button>
        </Box>
    );
}
