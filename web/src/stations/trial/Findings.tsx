import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Trial } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { inUnits } from '../../units/said';

const SIGNS: Record<Trial['findings'][number]['level'], { sign: string; word: string; colour: string }> = {
    blocking: { sign: '■', word: 'first', colour: 'error.main' },
    attention: { sign: '▲', word: 'attention', colour: 'warning.main' },
    note: { sign: '·', word: 'note', colour: 'text.secondary' },
};

/** Everything noticed about the start, what blocks first. */
export function Findings({ trial }: { trial: Trial }) {
    const { job } = useJob();
    if (trial.findings.length === 0) return null;
    return (
        <section aria-label="Findings">
            <Typography variant="h2" gutterBottom>
                Findings
            </Typography>
            <Box component="ul" sx={{ listStyle: 'none', p: 0, m: 0 }}>
                {trial.findings.map((finding) => {
                    const { sign, word, colour } = SIGNS[finding.level];
                    return (
                        <Box component="li" key={finding.key} sx={{ display: 'flex', gap: 1, py: 0.25 }}>
                            <Box component="span" aria-label={word} role="img" sx={{ color: colour, width: 16, flex: 'none' }}>
                                {sign}
                            </Box>
                            <Typography>{inUnits(finding.sentence, job.units)}</Typography>
                        </Box>
                    );
                })}
            </Box>
        </section>
    );
}
