import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { Link } from 'react-router';

const LEFT = 'tour-left';
const STEPS = [
    { title: 'A job is one vehicle', text: 'Open one, or begin a new one: what is known of its engine becomes base tables, each number with its reason.' },
    { title: 'The line of numbers is the order of work', text: 'Thirteen stations from intake to handover. The banner under it always says what is next, and why.' },
    { title: 'Try it without a car', text: 'Every station has a simulated engine behind it. Record a start at station 10, read what went wrong, accept the one change, start again.' },
] as const;

function wasLeft(): boolean {
    try {
        return localStorage.getItem(LEFT) !== null;
    } catch {
        return true;
    }
}

/** Three steps for whoever is here for the first time; once left it never returns by itself. */
export function Tour() {
    const [step, setStep] = useState(0);
    const [isLeft, setLeft] = useState(wasLeft);
    const shown = STEPS[step];
    const leave = () => {
        setLeft(true);
        try {
            localStorage.setItem(LEFT, '1');
        } catch {
            // A browser that keeps nothing shows it again.
        }
    };
    if (isLeft || !shown) return null;
    const isLast = step === STEPS.length - 1;
    return (
        <Box component="section" aria-label="First steps" sx={{ border: 1, borderColor: 'primary.main', bgcolor: 'background.paper', p: 1.5, mb: 2, display: 'flex', gap: 2, alignItems: 'center', flexWrap: 'wrap' }}>
            <Box sx={{ flex: 1, minWidth: 260 }}>
                <Typography sx={{ fontWeight: 650 }}>
                    {step + 1} of {STEPS.length}: {shown.title}
                </Typography>
                <Typography variant="body2">{shown.text}</Typography>
            </Box>
            <Button variant="outlined" onClick={() => (isLast ? leave() : setStep(step + 1))}>
                {isLast ? 'Done' : 'Next'}
            </Button>
            <Button component={Link} to="/guide">
                The guide
            </Button>
            {!isLast && <Button onClick={leave}>Leave it</Button>}
        </Box>
    );
}
