import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import { useJob } from './jobContext';
import { inUnits } from '../units/said';

export type Level = 'good' | 'attention' | 'stop';

const COLOURS: Record<Level, string> = { good: 'primary.main', attention: 'warning.main', stop: 'error.main' };

/** What the server says, each sentence on its own; the bar at the left says how serious it is. */
export function Sentences({ sentences, level }: { sentences: readonly string[]; level: Level }) {
    const { job } = useJob();
    if (!sentences.length) return null;
    return (
        <Box role="status" sx={{ borderLeft: 4, borderColor: COLOURS[level], pl: 1.5, py: 0.25, mb: 2 }}>
            {sentences.map((sentence) => (
                <Typography key={sentence} sx={{ mb: 0.5 }}>
                    {inUnits(sentence, job.units)}
                </Typography>
            ))}
        </Box>
    );
}
