import Box from '@mui/material/Box';

import type { Schemas } from '../../api/client';
import { formatNumber } from '../../units/units';
import { CurvePlot } from '../../parts/CurvePlot';
import { Facts } from '../../parts/Facts';
import { SmallTable } from '../../parts/SmallTable';

interface Props {
    fit: Schemas['TimingFit'];
    readings: readonly Schemas['LightReading'][];
}

/** Offset and delay with their errors, and how far each reading lies from the line. */
export function LightFit({ fit, readings }: Props) {
    const dots = readings.map((reading) => [reading.rpm, reading.seen_deg - reading.commanded_deg] as const);
    // What the server fitted is what was seen less what it left over.
    const line = dots
        .map(([rpm, off], i) => [rpm, off - (fit.residuals_deg[i] ?? 0)] as const)
        .toSorted((a, b) => a[0] - b[0]);
    const worst = Math.max(...fit.residuals_deg.map(Math.abs));
    return (
        <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: { xs: 'minmax(0, 1fr)', sm: 'minmax(0, 1fr) 230px' }, mb: 1 }}>
            <CurvePlot title="Seen less commanded" xLabel="Speed, rpm" yLabel="°" series={[{ name: 'fitted', points: line }]} dots={dots} height={250} yEnds={[-1, 1]} />
            <Box>
                <Facts
                    title="Fitted"
                    facts={[
                        { name: 'Offset', value: fit.offset_deg, unit: '°', decimals: 1 },
                        { name: '± standard error', value: fit.offset_error_deg, unit: '°', decimals: 1 },
                        { name: 'Delay', value: fit.delay_us, unit: 'µs', decimals: 0 },
                        { name: '± standard error', value: fit.delay_error_us, unit: 'µs', decimals: 0 },
                        { name: 'Farthest reading', value: worst, unit: '°', decimals: 1 },
                        { name: 'New offset', value: fit.new_offset_deg, unit: '°', decimals: 1 },
                    ].map((fact, i) => ({ ...fact, name: i === 3 ? '± standard error of it' : fact.name }))}
                />
                {fit.table.length > 0 && (
                    <SmallTable
                        title="To add, over speed"
                        heads={['rpm', '°']}
                        rows={fit.table.map(([rpm = 0, more = 0]) => [formatNumber(rpm, 0), formatNumber(more, 1)])}
                        foot="For a controller without a delay of its own."
                    />
                )}
            </Box>
        </Box>
    );
}
