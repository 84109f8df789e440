import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { CurvePlot } from '../../parts/CurvePlot';
import { fieldProblem } from '../../parts/fieldProblem';
import { useJob } from '../../parts/jobContext';
import { PointGrid, type Row } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { inUnits } from '../../units/said';
import { camSwitch, fitSpark, knockQuery, takeCams, takeKnock } from './api';

/** Spark: where it knocked, the best advance of a sweep; and where the cams change. */
export function SparkSheet({ pulls }: { pulls: Schemas['PullsOut'] }) {
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Spark and cams
            </Typography>
            <Knock pulls={pulls} />
            <Sweep />
            <Cams pulls={pulls} />
        </>
    );
}

function Knock({ pulls }: { pulls: Schemas['PullsOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [rows, setRows] = useState<Row[]>([]);
    const [quiet, setQuiet] = useState<number[]>([]);
    const asked = { quiet, heard: rows.flatMap(([rpm, kpa]) => (rpm == null || kpa == null ? [] : [{ rpm, map_kpa: kpa }])) };
    const cells = useQuery(knockQuery(job.id, asked)).data ?? [];
    const take = useMutation({ mutationFn: () => takeKnock(job.id, asked), onSuccess: () => refresh(queryClient, job.id, 'tables') });
    const usable = pulls.pulls.filter(({ aside }) => !aside);
    return (
        <Box component="section" aria-label="Knock" sx={{ mb: 3 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Where it knocked
            </Typography>
            {cells.map(({ sentence }) => (
                <Typography key={sentence}>{inUnits(sentence, job.units)}</Typography>
            ))}
            {!cells.length && <Typography>Nowhere, as far as the pulls tell. Knock has to be logged, counted or listened for.</Typography>}
            {usable.length > 0 && (
                <Box sx={{ mt: 1 }}>
                    <Typography variant="body2">Quiet pulls, without knock (little load, much retard): what the signal shows in them is its floor.</Typography>
                    {usable.map(({ number }) => (
                        <FormControlLabel key={number} control={<Checkbox size="small" checked={quiet.includes(number)} onChange={() => setQuiet(quiet.includes(number) ? quiet.filter((other) => other !== number) : [...quiet, number])} />} label={`Pull ${number} is quiet`} />
                    ))}
                </Box>
            )}
            <Box sx={{ maxWidth: 440 }}>
                <PointGrid title="Heard by ear" columns={[{ title: 'Speed', unit: 'rpm' }, { title: 'Manifold pressure', unit: 'kPa' }]} rows={rows} onChange={setRows} />
            </Box>
            {cells.length > 0 && (
                <Button variant="contained" sx={{ mt: 1, minHeight: 44 }} disabled={take.isPending} onClick={() => take.mutate()}>
                    Take these degrees out of the spark table
                </Button>
            )}
            {take.data && <Typography sx={{ mt: 1 }}>Revision {take.data.revision} holds it. Pull again on the same fuel.</Typography>}
            {take.error && <ProblemNote error={take.error} />}
        </Box>
    );
}

function Sweep() {
    const { job } = useJob();
    const [rows, setRows] = useState<Row[]>([]);
    const [fuel, setFuel] = useState('');
    const [knocked, setKnocked] = useState<number | null>(null);
    const points = rows.flatMap(([spark, torque]): Schemas['SparkPoint'][] => (spark == null || torque == null ? [] : [{ spark_deg: spark, torque, knocked: false }]));
    const fit = useMutation({ mutationFn: () => fitSpark(job.id, points, fuel, knocked) });
    return (
        <Box component="section" aria-label="Spark sweep" sx={{ mb: 3 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Best spark at a load point
            </Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                Hold speed and load on the brake, move the spark in steps of 2°, read torque at each; stop at the first knock.
            </Typography>
            <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 360px) minmax(0, 1fr)' } }}>
                <Box>
                    <PointGrid title="Sweep" columns={[{ title: 'Spark', unit: '°' }, { title: 'Torque', unit: '' }]} rows={rows} onChange={setRows} error={fieldProblem([fit.error], 'points')} />
                    <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
                        <TextField label="It knocked from [°]" type="number" value={knocked ?? ''} onChange={(event) => setKnocked(event.target.value === '' ? null : Number(event.target.value))} />
                        <TextField label="Fuel" value={fuel} onChange={(event) => setFuel(event.target.value)} />
                    </Box>
                    <Button variant="outlined" sx={{ mt: 1, minHeight: 44 }} disabled={!points.length || fit.isPending} onClick={() => fit.mutate()}>
                        Which advance is best?
                    </Button>
                </Box>
                {fit.data && (
                    <Box>
                        <Typography sx={{ fontWeight: 650, mb: 1 }}>{fit.data.sentence}</Typography>
                        <CurvePlot title="Torque over spark" xLabel="spark [°]" yLabel="torque [N·m]" series={[{ name: '', points: fit.data.curve as [number, number][] }]} dots={points.map((p) => [p.spark_deg, p.torque] as const)} xLimits={fit.data.advised_deg === null ? [] : [{ at: fit.data.advised_deg, label: 'advised' }]} height={250} />
                    </Box>
                )}
            </Box>
            {fit.error && <ProblemNote error={fit.error} />}
        </Box>
    );
}

function Cams({ pulls }: { pulls: Schemas['PullsOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const usable = pulls.pulls.filter(({ aside, conditions }) => !aside && conditions.profile);
    const [low, setLow] = useState<number[]>([]);
    const high = usable.map(({ number }) => number).filter((number) => !low.includes(number));
    const find = useMutation({ mutationFn: () => camSwitch(job.id, low, high) });
    const take = useMutation({ mutationFn: () => takeCams(job.id, low, high), onSuccess: () => refresh(queryClient, job.id, 'tables') });
    const found = find.data;
    if (!usable.length) return null;
    return (
        <Box component="section" aria-label="Cam profiles" sx={{ mb: 2 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Where the cams change
            </Typography>
            <Typography variant="body2">Tick the pulls on the low profile; the others count as the high one.</Typography>
            {usable.map(({ number, conditions }) => (
                <FormControlLabel key={number} control={<Checkbox checked={low.includes(number)} onChange={() => setLow(low.includes(number) ? low.filter((other) => other !== number) : [...low, number])} />} label={`Pull ${number}, ${conditions.profile} cam`} />
            ))}
            <Button variant="outlined" sx={{ display: 'block', minHeight: 44 }} disabled={!low.length || !high.length || find.isPending} onClick={() => find.mutate()}>
                Where do they cross?
            </Button>
            {found && (
                <Box sx={{ mt: 1, maxWidth: 640 }}>
                    <Typography sx={{ fontWeight: 650 }}>{found.sentence}</Typography>
                    <CurvePlot title="Both profiles" xLabel="speed [rpm]" yLabel="torque [N·m]" series={[{ name: 'low', points: found.curve_rpm.map((rpm, i) => [rpm, found.low_cam[i] ?? null]), look: 'broken' }, { name: 'high', points: found.curve_rpm.map((rpm, i) => [rpm, found.high_cam[i] ?? null]) }]} xLimits={found.rpm === null ? [] : [{ at: found.rpm, label: 'change here' }]} height={260} />
                    {found.rpm !== null && (
                        <Button variant="contained" disabled={take.isPending} onClick={() => take.mutate()}>
                            Write it into the settings
                        </Button>
                    )}
                    {take.data && <Typography>Revision {take.data.revision} holds it.</Typography>}
                </Box>
            )}
            {find.error && <ProblemNote error={find.error} />}
            {take.error && <ProblemNote error={take.error} />}
        </Box>
    );
}
