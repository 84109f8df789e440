import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { CurvePlot, type Series } from '../../parts/CurvePlot';

/** What full load draws, for petrol and for the blend, against what reaches the rail. */
export function MarginChart({ margin }: { margin: Schemas['SupplyMargin'] }) {
    const demand = margin.lines.map((line, i): Series => ({
        name: `demand, ${line.fuel}`,
        points: line.rpm.map((rpm, j) => [rpm, line.demand_l_h[j] ?? null] as const),
        look: i === margin.lines.length - 1 ? 'line' : 'broken',
    }));
    const own = margin.lines.at(-1);
    return (
        <Box>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Demand and supply at full load
            </Typography>
            <CurvePlot
                title="Fuel demand at full load over engine speed, against what the supply gives"
                xLabel="engine speed, rpm"
                yLabel="fuel, l/h"
                series={demand}
                yLimits={own ? [{ at: own.available_l_h, label: `reaches the rail: ${Math.round(own.available_l_h)} l/h` }] : []}
                xLimits={typeof own?.ends_at_rpm === 'number' ? [{ at: own.ends_at_rpm, label: 'falls short' }] : []}
                yEnds={[0]}
                height={300}
            />
        </Box>
    );
}
