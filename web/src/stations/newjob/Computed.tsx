import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';
import { formatNumber, shownUnit, toShown, type UnitChoice } from '../../units/units';

/** What follows from the data so far. */
export function Computed({ judgement, units }: { judgement: Schemas['InjectorJudgement'] | undefined; units: UnitChoice }) {
    if (!judgement) {
        return (
            <Typography variant="body2">
                Displacement, cylinders and injector flow are enough to begin. What follows from them
                stands here while you type.
            </Typography>
        );
    }
    const flow = toShown(judgement.flow_cm3_min, 'cm³/min', units);
    const rows: [string, string][] = [
        ['Flow at this rail', `${formatNumber(flow, 0)} ${shownUnit('cm³/min', units)}`],
        ['Reference pulse', `${formatNumber(judgement.reference_pulse_ms, 2)} ms`],
        ['Idle pulse, about', `${formatNumber(judgement.idle_pulse_ms, 2)} ms`],
        ['Duty at rev limit', `${formatNumber(judgement.duty_at_limit_pct, 0)} %`],
    ];
    const edge = judgement.level === 'fits' ? 'primary.main' : 'warning.main';
    return (
        <Box aria-live="polite">
            <Typography variant="h2" gutterBottom>
                What follows
            </Typography>
            {rows.map(([name, value]) => (
                <Box key={name} sx={{ display: 'flex', justifyContent: 'space-between', py: 0.5 }}>
                    <Typography variant="body2">{name}</Typography>
                    <Typography sx={{ fontFamily: mono, fontWeight: 600 }}>{value}</Typography>
                </Box>
            ))}
            <Typography variant="body2" sx={{ mt: 1.5, pl: 1, borderLeft: 3, borderColor: edge }}>
                {judgement.sentences.map((sentence) => inUnits(sentence, units)).join(' ')}
            </Typography>
            <Typography variant="caption" component="p" sx={{ mt: 2 }} color="text.secondary">
                Reference pulse: fuel for full cylinders at {formatNumber(toShown(100, 'kPa', units), 0)} {shownUnit('kPa', units)} and{' '}
                {formatNumber(toShown(20, '°C', units), 0)} {shownUnit('°C', units)}, lambda 1, without dead time.
            </Typography>
        </Box>
    );
}
