import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { CurvePlot, type Series } from '../../parts/CurvePlot';
import { useShown } from '../../parts/useShown';

/** How long each injector is open at full load, over speed and boost. */
export function DutyChart({ sheet }: { sheet: Schemas['InjectorSheet'] }) {
    const { job } = useJob();
    const shown = useShown();
    const looks: Series['look'][] = ['faint', 'broken', 'line'];
    const lines = sheet.duty_lines;
    const series = lines.map((line, i): Series => ({
        name: line.boost_kpa > 0 ? `${shown(line.boost_kpa, 'kPa', 0)} boost` : job.engine.boost_kpa > 0 ? 'no boost' : 'full load',
        points: line.rpm.map((rpm, j) => [rpm, line.duty_pct[j] ?? null] as const),
        look: looks[looks.length - lines.length + i] ?? 'line',
    }));
    return (
        <Box>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Duty at full load
            </Typography>
            <CurvePlot
                title="Duty of the injectors over engine speed at full load"
                xLabel="engine speed, rpm"
                yLabel="duty, %"
                series={series}
                yLimits={[{ at: sheet.duty_limit_pct, label: `limit ${sheet.duty_limit_pct} %` }]}
                yEnds={[0]}
                height={270}
            />
        </Box>
    );
}
