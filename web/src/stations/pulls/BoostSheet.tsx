import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { CurvePlot } from '../../parts/CurvePlot';
import { fieldProblem } from '../../parts/fieldProblem';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { useShown } from '../../parts/useShown';
import { inUnits } from '../../units/said';
import { AddPull } from './AddPull';
import { staircaseQuery, takeBoost } from './api';

/** The boost staircase: where it stands, the next step and why, and what stops it. */
export function BoostSheet({ pulls }: { pulls: Schemas['PullsOut'] }) {
    const { job } = useJob();
    const shown = useShown();
    const stairs = useQuery(staircaseQuery(job.id));
    if (!stairs.data) return stairs.error ? <ProblemNote error={stairs.error} /> : <Loading what="Looking at the staircase" />;
    const found = stairs.data;
    const isStop = found.outcome === 'stop';
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Boost staircase
            </Typography>
            <Box role={isStop ? 'alert' : 'status'} sx={{ border: isStop ? 3 : 1, borderColor: isStop ? 'error.main' : 'divider', bgcolor: 'background.paper', p: 1.5, mb: 2 }}>
                <Typography sx={{ fontSize: '1.2rem', fontWeight: 650 }}>{inUnits(found.sentence, job.units)}</Typography>
                {found.boost_cut_kpa !== null && <Typography sx={{ mt: 0.5 }}>Boost cut at {shown(found.boost_cut_kpa, 'kPa', 0)} for the next pull.</Typography>}
            </Box>
            {found.notes.length > 0 && <Sentences sentences={found.notes} level="attention" />}
            {found.duties.length > 0 && (
                <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: { xs: 'minmax(0, 1fr)', lg: 'repeat(2, minmax(0, 1fr))' }, mb: 2 }}>
                    <CurvePlot
                        title="Pressure over duty"
                        xLabel="duty [%]"
                        yLabel="most pressure [kPa]"
                        series={[{ name: '', points: found.duties.map((duty, i) => [duty, found.most_kpa[i] ?? null]) }]}
                        dots={[...found.duties.map((duty, i) => [duty, found.most_kpa[i] ?? 0] as const), ...(found.next_duty_pct !== null && found.next_kpa !== null ? [[found.next_duty_pct, found.next_kpa] as const] : [])]}
                        yLimits={pulls.limits ? [{ at: pulls.limits.boost_kpa, label: 'limit' }] : []}
                        height={270}
                    />
                    <CurvePlot
                        title="Pressure over speed"
                        xLabel="speed [rpm]"
                        yLabel="pressure [kPa]"
                        series={found.kpa.map((row, i) => ({ name: `${found.duties[i]} %`, points: found.rpm.map((rpm, j) => [rpm, row[j] ?? null] as const), look: i === found.kpa.length - 1 ? 'line' : 'faint' }))}
                        yLimits={pulls.limits ? [{ at: pulls.limits.boost_kpa, label: 'limit' }] : []}
                        xLimits={found.spooled_rpm === null ? [] : [{ at: found.spooled_rpm, label: 'spooled' }]}
                        height={270}
                    />
                </Box>
            )}
            <IntoTables found={found} />
            {found.next_duty_pct !== null && <AddPull key={found.next_duty_pct} pulls={pulls} duty={found.next_duty_pct} />}
        </>
    );
}

/** Target and duty into the tables. */
function IntoTables({ found }: { found: Schemas['Staircase'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [target, setTarget] = useState<number | null>(null);
    const take = useMutation({ mutationFn: (kpa: number) => takeBoost(job.id, kpa), onSuccess: () => refresh(queryClient, job.id, 'tables') });
    if (found.duties.length < 2) return null;
    return (
        <Box sx={{ mb: 2 }}>
            <Box sx={{ display: 'flex', gap: 1.5, flexWrap: 'wrap', alignItems: 'flex-start' }}>
                <Box sx={{ width: 240 }}>
                    <QuantityField label="Target, absolute" unit="kPa" value={target} onChange={setTarget} error={fieldProblem([take.error], 'target_kpa')} />
                </Box>
                <Button variant="contained" sx={{ minHeight: 44 }} disabled={target === null || take.isPending} onClick={() => target !== null && take.mutate(target)}>
                    Write target and duty into the tables
                </Button>
            </Box>
            {take.data && (
                <Typography sx={{ mt: 1 }}>
                    Revision {take.data.revision}: {inUnits(take.data.tables.sentence, job.units)}
                </Typography>
            )}
            {take.error && <ProblemNote error={take.error} />}
        </Box>
    );
}
