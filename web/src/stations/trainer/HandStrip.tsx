import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';

/** What one hand made of the season: a sentence, and each day's cold start as good or not. */
export function HandStrip({ hand }: { hand: Schemas['HandOut'] }) {
    const { job } = useJob();
    return (
        <Box sx={{ py: 0.5 }}>
            <Typography>
                <b>{hand.name}</b>: {inUnits(hand.sentence, job.units)}
            </Typography>
            <Box aria-label={`Cold starts of ${hand.name}`} role="img" sx={{ display: 'flex', gap: 0.5, fontFamily: mono }}>
                {hand.mornings.map((start) => (
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
