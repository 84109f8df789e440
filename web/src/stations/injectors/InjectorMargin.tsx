import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { inUnits } from '../../units/said';
import { Facts } from '../../parts/Facts';

/** Flow, pulses and power: the figures that follow. */
export function InjectorMargin({ answer }: { answer: Schemas['InjectorSetOut'] | undefined }) {
    const { job } = useJob();
    if (!answer) {
        return <Typography variant="body2">Number, flow and rated pressure are enough. What follows stands here while you type.</Typography>;
    }
    const { sheet } = answer;
    return (
        <>
            <Facts
                title="Flow of one"
                facts={[
                    { name: 'Petrol, as rated', value: answer.rated_petrol_cm3_min, unit: 'cm³/min', decimals: 0 },
                    { name: 'At this rail', value: sheet.rail_cm3_min, unit: 'cm³/min', decimals: 0 },
                    { name: '… as a mass', value: sheet.rail_gps, unit: 'g/s', decimals: 2 },
                    { name: 'Density of the fuel', value: sheet.fuel_density_kg_m3, unit: 'kg/m³', decimals: 0 },
                ]}
            />
            <Facts
                title="Pulses"
                facts={[
                    { name: 'Reference, no dead time', value: sheet.reference_pulse_ms, unit: 'ms', decimals: 2 },
                    { name: 'Warm idle, whole pulse', value: sheet.smallest_pulse_ms, unit: 'ms', decimals: 2 },
                    { name: '… of it open', value: sheet.idle_open_ms, unit: 'ms', decimals: 2 },
                    { name: '… of it dead time', value: sheet.dead_time_share_pct, unit: '%', decimals: 0 },
                    { name: 'Shortest steady', value: sheet.steady_open_ms, unit: 'ms', decimals: 2 },
                    { name: 'Largest', value: sheet.largest_pulse_ms, unit: 'ms', decimals: 1 },
                ]}
            />
            <Typography variant="caption" component="p" sx={{ mt: -1.5, mb: 2 }}>
                Largest at {inUnits(sheet.largest_at, job.units)}.
            </Typography>
            <Facts
                title="At the limit"
                facts={[
                    { name: 'Highest duty', value: sheet.judgement.duty_at_limit_pct, unit: '%', decimals: 0 },
                    { name: 'They carry about', value: sheet.power_kw, unit: 'kW', decimals: 0 },
                ]}
            />
            {sheet.driver?.level === 'fits' && (
                <Typography variant="body2" sx={{ mb: 2 }}>
                    {inUnits(sheet.driver.sentence, job.units)}
                </Typography>
            )}
        </>
    );
}
