import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';

export interface HandRecord {
    name: string;
    sentence: string;
    starts: { day: number; coolant_c: number; good: boolean }[];
}

/** What one hand made of the season: a sentence, and each day's cold start as good or not. */
export function HandStrip({ hand }: { hand: HandRecord }) {
    const { job } = useJob();
    const cold = hand.starts.filter((start, i) => hand.starts.findIndex((other) => other.day === start.day) === i);
    return (
        <Box sx={{ py: 0.5 }}>
            <Typography>
                <b>{hand.name}</b>: {inUnits(hand.sentence, job.units)}
            </Typography>
            <Box aria-label={`Cold starts of ${hand.name}`} role="img" sx={{ display: 'flex', gap: 0.5, fontFamily: mono }}>
                {cold.map((start) => (
                    <Box
                        key={start.day}
                        sx={{ width: 26, textAlign: 'center', border: 1, borderColor: 'divider', bgcolor: start.good ? 'primary.main' : 'transparent', color: start.good ? 'primary.contrastText' : 'text.primary' }}
                    >
                        {start.good ? '✓' : '–'}
                    </Box>
                ))}
            </Box>
        </Box>
    );
}
