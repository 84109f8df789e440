import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Mornings } from '../../../api/mornings';
import { CurvePlot } from '../../../parts/CurvePlot';
import { useJob } from '../../../parts/jobContext';
import { moment } from '../../../parts/when';
import { inUnits } from '../../../units/said';
import { shownUnit, toShown } from '../../../units/units';

/** How the stopped engine cools, and when it is cold right through. */
export function Cooling({ mornings }: { mornings: Mornings }) {
    const { job } = useJob();
    const { standing } = mornings;
    const celsius = (value: number) => toShown(value, '°C', job.units);
    return (
        <Box>
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                {standing.at ? `Ready ${moment(standing.at)}` : 'Soak'}
            </Typography>
            {standing.sentences.map((sentence) => (
                <Typography key={sentence} variant="body2">
                    {inUnits(sentence, job.units)}
                </Typography>
            ))}
            <CurvePlot
                title="Coolant after switching off"
                xLabel="stood, h"
                yLabel={`coolant, ${shownUnit('°C', job.units)}`}
                series={[{ name: 'cooling', points: standing.curve_h.map((h, i) => [h, celsius(standing.curve_c[i] ?? 0)] as const) }]}
                dots={mornings.parked.map((r) => [r.stood_h, celsius(r.coolant_c)] as const)}
                xLimits={[{ at: standing.after_h, label: 'cold right through' }]}
                height={220}
            />
        </Box>
    );
}
