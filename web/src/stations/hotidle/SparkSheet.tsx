import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Slider from '@mui/material/Slider';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { CurvePlot } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { inUnits } from '../../units/said';
import { formatNumber } from '../../units/units';
import { sparkQuery } from './api';

/** Target over coolant, spark over the error of speed, and the steps of idle air. */
export function SparkSheet({ idle }: { idle: Schemas['IdleOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [lopey, setLopey] = useState(0);
    const spark = useQuery(sparkQuery(job.id, lopey));
    const path = { params: { path: { job_id: job.id } } };
    const onSuccess = () => refresh(queryClient, job.id, 'idle', 'tables');
    const take = useMutation({ mutationFn: () => unwrap(client.POST('/api/jobs/{job_id}/idle/spark', { ...path, body: { lopey } })), onSuccess });
    const step = useMutation({
        mutationFn: (outcome: Schemas['AirStepOut']['key']) => unwrap(client.POST('/api/jobs/{job_id}/idle/step', { ...path, body: { outcome } })),
        onSuccess,
    });
    const offsets = Object.entries(idle.target_offsets_rpm).map(([key, rpm]) => `${key.replaceAll('_', ' ')} ${rpm > 0 ? '+' : ''}${formatNumber(rpm, 0)} rpm`);
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Target and spark
            </Typography>
            <Box sx={{ display: 'grid', gap: 3, gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'repeat(2, minmax(0, 1fr))' }, alignItems: 'start' }}>
                <Box>
                    <Typography variant="h3" component="h2">
                        Idle target
                    </Typography>
                    <CurvePlot title="Idle target over coolant temperature" xLabel="coolant [°C]" yLabel="target [rpm]" height={240} series={[{ name: '', points: idle.target_c.map((c, i) => [c, idle.target_rpm[i] ?? null]) }]} />
                    <Typography variant="body2">The warm speed is reached well before full temperature. Usual offsets: {offsets.join(', ')}.</Typography>
                </Box>
                <Box>
                    <Typography variant="h3" component="h2">
                        Spark for speed
                    </Typography>
                    {spark.data && (
                        <CurvePlot
                            title="Spark correction over the error of speed"
                            xLabel="target minus speed [rpm]"
                            yLabel="added spark [°]"
                            height={240}
                            yEnds={[-35, 35]}
                            series={[{ name: '', points: spark.data.errors_rpm.map((error, i) => [error, spark.data.correction_deg[i] ?? null]) }]}
                        />
                    )}
                    <Box sx={{ display: 'flex', gap: 2, alignItems: 'center', px: 1 }}>
                        <Typography variant="body2">clean</Typography>
                        <Slider aria-label="Clean to lopey" value={lopey} min={0} max={1} step={0.1} onChange={(_, value) => setLopey(value)} />
                        <Typography variant="body2">lopey</Typography>
                    </Box>
                    <Typography variant="body2" sx={{ mb: 1 }}>
                        {spark.data && `At idle about ${formatNumber(spark.data.base_deg, 0)}°. ${spark.data.sentence}`}
                    </Typography>
                    <Button variant="contained" disabled={take.isPending} onClick={() => take.mutate()}>
                        Write this correction into the tables
                    </Button>
                    {take.data && <Typography variant="body2">{take.data.revision ? `Revision ${take.data.revision}.` : 'It stands there already.'}</Typography>}
                    {take.error && <ProblemNote error={take.error} />}
                </Box>
            </Box>
            <Typography variant="h3" component="h2" sx={{ mt: 3, mb: 1 }}>
                Idle air, one step at a time
            </Typography>
            <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
                {idle.air_steps.map(({ key, sentence }) => (
                    <Button key={key} variant="outlined" disabled={step.isPending} onClick={() => step.mutate(key)} sx={{ textAlign: 'left' }}>
                        {sentence}
                    </Button>
                ))}
            </Box>
            {step.data && <Typography sx={{ mt: 1 }}>{step.data.revision ? `Revision ${step.data.revision} holds the step.` : 'Nothing changed.'}</Typography>}
            {step.error && <ProblemNote error={step.error} />}
            <Box sx={{ display: 'grid', gap: 2, mt: 3, gridTemplateColumns: { xs: '1fr', md: 'repeat(2, minmax(0, 1fr))' } }}>
                {idle.habits.map(({ key, title, sentence }) => (
                    <Box key={key} sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
                        <Typography variant="h3" component="h2">
                            {title}
                        </Typography>
                        <Typography variant="body2">{inUnits(sentence, job.units)}</Typography>
                    </Box>
                ))}
            </Box>
        </>
    );
}
