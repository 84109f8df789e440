import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';

const LEFT = 'tour-left';
const STEPS = [
    'A job is one vehicle: open one or begin one.',
    'The numbers in a job are the order of work; the banner says what is next.',
    'No engine yet? Station 10 starts a simulated one.',
] as const;

/** Whether the tour was left, noted first if it is left now; a browser that keeps nothing shows it each time. */
function left(now?: boolean) {
    try {
        if (now) localStorage.setItem(LEFT, '1');
        return localStorage.getItem(LEFT);
    } catch {
        return null;
    }
}

/** Three steps for whoever is here for the first time; once left it never returns by itself. */
export function Tour() {
    const [step, setStep] = useState(() => (left() ? STEPS.length : 0));
    const shown = STEPS[step];
    if (!shown) return null;
    const leave = () => {
        setStep(STEPS.length);
        left(true);
    };
    return (
        <Box component="section" aria-label="First steps" sx={{ border: 1, p: 1.5, mb: 2 }}>
            {step + 1} of {STEPS.length}: {shown}
            <Button onClick={() => (step + 1 < STEPS.length ? setStep(step + 1) : leave())}>{step + 1 < STEPS.length ? 'Next' : 'Done'}</Button>
            <Button onClick={leave}>Leave it</Button>
        </Box>
    );
}
