import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';

const LEFT = 'tour-left';
const STEPS = [
    'A job is one vehicle. Open one, or begin a new one.',
    'The line of numbers in a job is the order of work; the banner says what is next.',
    'Every station has a simulated engine: record a start at station 10.',
] as const;

/** Three steps for whoever is here for the first time; once left it never returns by itself. */
export function Tour() {
    const [step, setStep] = useState(() => (localStorage.getItem(LEFT) ? STEPS.length : 0));
    const shown = STEPS[step];
    if (!shown) return null;
    const leave = () => {
        setStep(STEPS.length);
        localStorage.setItem(LEFT, '1');
    };
    return (
        <Box component="section" aria-label="First steps" sx={{ border: 1, p: 1.5, mb: 2 }}>
            {step + 1} of {STEPS.length}: {shown}
            <Button onClick={() => (step + 1 < STEPS.length ? setStep(step + 1) : leave())}>{step + 1 < STEPS.length ? 'Next' : 'Done'}</Button>
            <Button onClick={leave}>Leave it</Button>
        </Box>
    );
}
