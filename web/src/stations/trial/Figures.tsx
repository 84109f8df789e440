import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';

import type { Trial } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { formatNumber, shownUnit, toShown } from '../../units/units';

interface Figure {
    key: string;
    label: string;
    unit: string;
    decimals: number;
    percent?: boolean;
}

const FIGURES: Figure[] = [
    { key: 'coolant_c', label: 'Coolant at the start', unit: '°C', decimals: 0 },
    { key: 'intake_c', label: 'Intake air at the start', unit: '°C', decimals: 0 },
    { key: 'battery_rest_v', label: 'Battery at rest', unit: 'V', decimals: 1 },
    { key: 'battery_low_v', label: 'Battery, lowest', unit: 'V', decimals: 1 },
    { key: 'cranking_rpm', label: 'Cranking speed', unit: 'rpm', decimals: 0 },
    { key: 'sync_late_s', label: 'Position known after', unit: 's', decimals: 1 },
    { key: 'pressure_late_s', label: 'Fuel pressure after', unit: 's', decimals: 1 },
    { key: 'fire_after_s', label: 'Fired after', unit: 's', decimals: 1 },
    { key: 'run_after_s', label: 'Ran after', unit: 's', decimals: 1 },
    { key: 'flare_rpm', label: 'Flare', unit: 'rpm', decimals: 0 },
    { key: 'dip_rpm', label: 'Dip', unit: 'rpm', decimals: 0 },
    { key: 'settled_after_s', label: 'Settled after', unit: 's', decimals: 1 },
    { key: 'steady_rpm', label: 'Steady speed', unit: 'rpm', decimals: 0 },
    { key: 'steady_target_rpm', label: 'its target', unit: 'rpm', decimals: 0 },
    { key: 'ran_s', label: 'Ran until it died', unit: 's', decimals: 1 },
    { key: 'steady_map_kpa', label: 'Manifold, steady', unit: 'kPa', decimals: 0 },
    { key: 'idle_valve_pct', label: 'Idle valve, steady', unit: '%', decimals: 0 },
    { key: 'need_after_start', label: 'Fuel needed of given, early', unit: '%', decimals: 0, percent: true },
    { key: 'need_settled', label: 'Fuel needed of given, settled', unit: '%', decimals: 0, percent: true },
];

/** The figures of the start, and what has to wait. Unknown is left out, never shown as zero. */
export function Figures({ trial }: { trial: Trial }) {
    const { job, vocabulary } = useJob();
    const known = FIGURES.filter((figure) => trial.figures[figure.key] != null);
    return (
        <Stack spacing={2}>
            <div>
                <Typography variant="h2" gutterBottom>
                    Figures
                </Typography>
                {known.map((figure) => {
                    const raw = trial.figures[figure.key] as number;
                    const value = figure.percent ? 100 * raw : toShown(raw, figure.unit, job.units);
                    return (
                        <Box
                            key={figure.key}
                            sx={{
                                display: 'flex',
                                justifyContent: 'space-between',
                                gap: 1,
                                py: 0.2,
                                borderBottom: 1,
                                borderColor: 'divider',
                            }}
                        >
                            <Typography variant="body2">{figure.label}</Typography>
                            <Typography variant="body2" sx={{ whiteSpace: 'nowrap' }}>
                                <Box component="span" sx={{ fontFamily: mono, fontWeight: 600 }}>
                                    {formatNumber(value, figure.decimals)}
                                </Box>{' '}
                                {shownUnit(figure.unit, job.units)}
                            </Typography>
                        </Box>
                    );
                })}
            </div>
            {trial.waits.length > 0 && (
                <div>
                    <Typography variant="h3" gutterBottom>
                        Has to wait
                    </Typography>
                    {trial.waits.map((wait) => (
                        <Typography key={wait.rule} variant="body2" sx={{ mb: 0.5 }}>
                            <b>{vocabulary.tables.find((entry) => entry.key === wait.table)?.title ?? wait.table}:</b>{' '}
                            {wait.reason}
                        </Typography>
                    ))}
                </div>
            )}
        </Stack>
    );
}
