import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { mono } from '../../parts/theme';
import { Sentences } from '../../parts/Sentences';

const LEVELS = { good: 'good', attention: 'attention', stop: 'stop', unknown: 'attention' } as const;

/** How much each cylinder slows the starter, against the best one. */
export function CompressionBars({ compression }: { compression: Schemas['Compression'] }) {
    return (
        <Box component="section" aria-label="Relative compression" sx={{ mb: 2 }}>
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                Relative compression
            </Typography>
            <Sentences sentences={compression.sentences} level={LEVELS[compression.level]} />
            {compression.cylinders.map((entry) => (
                <Box key={entry.place} sx={{ display: 'grid', gridTemplateColumns: '120px minmax(0, 1fr) 110px', alignItems: 'center', gap: 1, mb: 0.5 }}>
                    <Typography variant="body2">{entry.cylinder === null ? `number ${entry.place} in turn` : `Cylinder ${entry.cylinder}`}</Typography>
                    <Box sx={{ height: 16, border: 1, borderColor: 'divider', position: 'relative' }}>
                        <Box sx={{ height: '100%', width: `${entry.relative_pct}%`, bgcolor: 'ink.main', opacity: 0.75 }} />
                        <Box sx={{ position: 'absolute', top: 7, height: 2, bgcolor: 'text.primary', left: `${Math.max(0, entry.relative_pct - entry.error_pct)}%`, width: `${Math.min(2 * entry.error_pct, 100 - entry.relative_pct + entry.error_pct)}%` }} />
                    </Box>
                    <Typography sx={{ fontFamily: mono, fontSize: '0.88rem' }}>
                        {entry.relative_pct.toFixed(0)} ± {entry.error_pct.toFixed(0)} %
                    </Typography>
                </Box>
            ))}
        </Box>
    );
}
