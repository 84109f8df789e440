import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { forecastQuery } from '../../api/ladder';
import { morningsQuery } from '../../api/mornings';
import { useJob } from '../../parts/jobContext';
import { NumberField } from '../../parts/NumberField';
import { ProblemNote } from '../../parts/ProblemNote';
import { inUnits } from '../../units/said';
import { fromShown, parseNumber, shownUnit } from '../../units/units';

/** Tomorrow's start: a typed morning temperature, and what the estimate says of it. */
export function Forecast() {
    const { job } = useJob();
    const [typed, setTyped] = useState('');
    const shown = parseNumber(typed);
    const coolantC = shown === null ? null : fromShown(shown, '°C', job.units);
    const planned = useQuery(morningsQuery(job.id)).data;
    const forecast = useQuery({ ...forecastQuery(job.id, coolantC ?? 0), enabled: coolantC !== null });
    return (
        <Box component="section" aria-label="Tomorrow" sx={{ display: 'flex', gap: 1.5, alignItems: 'center', flexWrap: 'wrap', mt: 1.25, mb: 1 }}>
            <Box sx={{ width: 215 }}>
                <NumberField label="Tomorrow's morning" unit={shownUnit('°C', job.units)} value={typed} onChange={setTyped} />
            </Box>
            <Box sx={{ flex: '1 1 16rem' }} aria-live="polite">
                {coolantC !== null && forecast.data && <Typography>{inUnits(forecast.data.sentence, job.units)}</Typography>}
                {coolantC !== null && forecast.error && <ProblemNote error={forecast.error} />}
                {coolantC === null && planned?.tomorrow && <Typography>{inUnits(planned.tomorrow, job.units)}</Typography>}
                {coolantC === null && planned?.tomorrow === '' && (
                    <Typography variant="body2" color="text.secondary">
                        Type the temperature that is expected: the chance of a good start with the tables in force is told here.
                    </Typography>
                )}
            </Box>
        </Box>
    );
}
