import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { Choice } from '../../parts/Choice';
import { CurvePlot } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { comparePulls, planPulls } from './api';

type Side = 'a' | 'b' | '';

/** A part, a setting or a fuel: is it better, and how surely? */
export function CompareSheet({ pulls }: { pulls: Schemas['PullsOut'] }) {
    const { job } = useJob();
    const [sides, setSides] = useState<Record<number, Side>>({});
    const [standard, setStandard] = useState<Schemas['CompareIn']['standard']>('none');
    const [wanted, setWanted] = useState<number | null>(1);
    const usable = pulls.pulls.filter(({ aside }) => !aside);
    const of = (side: Side) => usable.filter(({ number }) => sides[number] === side).map(({ number }) => number);
    const compare = useMutation({ mutationFn: () => comparePulls(job.id, { a: of('a'), b: of('b'), standard, wanted_pct: wanted ?? 1 }) });
    const found = compare.data;
    const plan = useQuery({ queryKey: ['jobs', job.id, 'pulls', 'plan'], queryFn: () => planPulls(job.id, 3) }).data;
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                A against B
            </Typography>
            {found ? <Told found={found} /> : <Typography sx={{ mb: 1 }}>One pull against one says nothing. Drive {plan?.order.join(' ') ?? 'A B B A'}, nothing changed but the one thing, each from the same temperature.</Typography>}
            <Box sx={{ mb: 2 }}>
                {usable.map((row) => (
                    <Box key={row.number} sx={{ display: 'flex', gap: 1.5, alignItems: 'center', borderTop: 1, borderColor: 'divider', py: 0.5 }}>
                        <ToggleButtonGroup exclusive size="small" value={sides[row.number] ?? ''} aria-label={`Pull ${row.number} is`} onChange={(_, side: Side | null) => setSides({ ...sides, [row.number]: side ?? '' })}>
                            <ToggleButton value="a" sx={{ minWidth: 44 }}>
                                A
                            </ToggleButton>
                            <ToggleButton value="b" sx={{ minWidth: 44 }}>
                                B
                            </ToggleButton>
                        </ToggleButtonGroup>
                        <Typography variant="body2">
                            Pull {row.number}
                            {row.conditions.part && `: ${row.conditions.part}`}
                            {row.conditions.note && `, ${row.conditions.note}`}
                        </Typography>
                    </Box>
                ))}
            </Box>
            <Box sx={{ display: 'flex', gap: 1.5, flexWrap: 'wrap', alignItems: 'flex-start', mb: 2 }}>
                <Choice label="Corrected by" value={standard ?? 'none'} onChange={(value) => setStandard(value as typeof standard)} options={pulls.standards} width={180} />
                <Box sx={{ width: 170 }}>
                    <QuantityField label="Wanted to see" unit="%" value={wanted} onChange={setWanted} />
                </Box>
                <Button variant="contained" sx={{ minHeight: 44 }} disabled={!of('a').length || !of('b').length || compare.isPending} onClick={() => compare.mutate()}>
                    Compare
                </Button>
            </Box>
            {compare.error && <ProblemNote error={compare.error} />}
        </>
    );
}

/** The difference with its band. */
function Told({ found }: { found: Schemas['Difference'] }) {
    const over = (values: readonly number[]) => found.rpm.map((rpm, i) => [rpm, values[i] ?? null] as const);
    return (
        <Box sx={{ mb: 2 }}>
            <Sentences sentences={found.sentences} level={found.told ? 'good' : 'attention'} />
            <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: { xs: 'minmax(0, 1fr)', lg: 'repeat(2, minmax(0, 1fr))' } }}>
                <CurvePlot title="Both" xLabel="speed [rpm]" yLabel="mean torque [N·m]" series={[{ name: 'A', points: over(found.a), look: 'broken' }, { name: 'B', points: over(found.b) }]} height={270} />
                <CurvePlot
                    title="Difference"
                    xLabel="speed [rpm]"
                    yLabel="B against A [%]"
                    series={[
                        { name: 'B against A', points: over(found.percent) },
                        { name: '90 % band', points: over(found.low), look: 'faint' },
                        { name: '', points: over(found.high), look: 'faint' },
                    ]}
                    yLimits={[{ at: 0, label: '' }]}
                    yEnds={[-1, 1]}
                    height={270}
                />
            </Box>
        </Box>
    );
}
