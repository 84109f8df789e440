import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { inUnits } from '../../units/said';
import { useJob } from '../jobContext';
import { Mark, type State } from '../Mark';
import { mono } from '../theme';
import { useShown } from '../useShown';

const MARKS: Record<Exclude<Schemas['Watched']['level'], 'none'>, State> = { good: 'pass', look: 'suspicious', stop: 'fail' };
const DECIMALS: Record<string, number> = { V: 1, lambda: 3, kPa: 0, '°C': 0, rpm: 0 };

/** The watch list with live values; what stops the work stands above all of it in large type. */
export function WatchList({ lines }: { lines: Schemas['Watched'][] }) {
    const { job } = useJob();
    const shown = useShown();
    const stops = lines.filter(({ level }) => level === 'stop');
    return (
        <Box component="section" aria-label="Watch list">
            {stops.map(({ key, sentence }) => (
                <Box key={key} role="alert" sx={{ border: 3, borderColor: 'error.main', p: 2, mb: 1.5, bgcolor: 'background.paper' }}>
                    <Typography sx={{ fontSize: { xs: '1.25rem', md: '1.5rem' }, fontWeight: 700, color: 'error.main' }}>{inUnits(sentence, job.units)}</Typography>
                </Box>
            ))}
            <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(138px, 1fr))', gap: 1, mb: 1.5 }}>
                {lines.map((line) => (
                    <Box key={line.key} sx={{ border: 1, borderColor: line.level === 'stop' ? 'error.main' : 'divider', p: 1 }}>
                        <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
                            <Typography variant="body2">{line.title}</Typography>
                            {line.level !== 'none' && <Mark state={MARKS[line.level]} word={false} />}
                        </Box>
                        <Figure text={line.value === null ? '–' : shown(line.value, line.unit, DECIMALS[line.unit] ?? 1)} />
                        {line.level !== 'stop' && line.sentence && <Typography variant="caption">{inUnits(line.sentence, job.units)}</Typography>}
                    </Box>
                ))}
            </Box>
        </Box>
    );
}

/** A figure large, its unit beside it small. */
function Figure({ text }: { text: string }) {
    const [figure, ...unit] = text.split(' ');
    return (
        <Typography sx={{ fontFamily: mono, fontSize: '1.3rem', fontWeight: 650, whiteSpace: 'nowrap' }}>
            {figure}{' '}
            <Box component="span" sx={{ fontSize: '0.9rem', fontWeight: 400 }}>
                {unit.join(' ')}
            </Box>
        </Typography>
    );
}
