import Box from '@mui/material/Box';

import type { Job } from '../../api/client';
import { formatNumber, shownUnit, toShown } from '../../units/units';

const STEP = 9;
const TUBE_X = 7;

/** The temperatures at which starts have to be good, upright, the warmest on top: filled where one was. */
export function ProvenScale({ job }: { job: Job }) {
    const warmestFirst = [...job.checks].reverse();
    const height = STEP * warmestFirst.length + 4;
    const named = (proven: boolean) =>
        job.checks
            .filter((check) => check.proven === proven)
            .map(({ coolant_c: c }) => formatNumber(toShown(c, '°C', job.units), 0))
            .join(', ');
    const unit = shownUnit('°C', job.units);
    const proven = named(true);
    const open = named(false);
    const said = [proven && `proven at ${proven} ${unit}`, open && `open at ${open} ${unit}`].filter(Boolean).join('; ');
    return (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }} title={said}>
            <Box component="svg" role="img" aria-label={said} width={14} height={height} sx={{ flex: 'none' }}>
                <line x1={TUBE_X} x2={TUBE_X} y1={4} y2={height - 4} stroke="var(--mui-palette-ink-rule)" strokeWidth="1.5" />
                {warmestFirst.map((check, i) => (
                    <circle
                        key={check.coolant_c}
                        cx={TUBE_X}
                        cy={STEP * i + 6.5}
                        r={check.proven ? 3.6 : 2.8}
                        fill={check.proven ? 'var(--mui-palette-primary-main)' : 'var(--mui-palette-background-paper)'}
                        stroke={check.proven ? 'var(--mui-palette-primary-main)' : 'var(--mui-palette-ink-faint)'}
                        strokeWidth="1.3"
                    />
                ))}
            </Box>
            <span>
                {job.checks.filter((check) => check.proven).length} of {job.checks.length}
            </span>
        </Box>
    );
}
