import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import Typography from '@mui/material/Typography';
import { useMutation, useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import Button from '@mui/material/Button';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { Choice } from '../../parts/Choice';
import { CurvePlot, type Series } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { Mark } from '../../parts/Mark';
import { ProblemNote } from '../../parts/ProblemNote';
import { ReasonBox } from '../../parts/ReasonBox';
import { mono } from '../../parts/theme';
import { TaskProgress } from '../../parts/TaskProgress';
import { useShown } from '../../parts/useShown';
import { useTask } from '../../parts/useTask';
import { inUnits } from '../../units/said';
import { formatNumber } from '../../units/units';
import { AddPull } from './AddPull';
import { dipsQuery, pullQuery, setAside, solveFullLoad } from './api';
import { driven, torqueOf } from './words';

const SHOWN = 4;
const HEADS = [
    ['Pull', 'left'],
    ['Driven with', 'left'],
    ['Torque', 'right'],
    ['Power', 'right'],
    ['Pressure', 'right'],
    ['Stops and doubts', 'left'],
] as const;

/** All pulls, the chosen ones laid over each other, and what they say together. */
export function BoardSheet({ pulls }: { pulls: Schemas['PullsOut'] }) {
    const usable = pulls.pulls.filter(({ aside }) => !aside).map(({ number }) => number);
    const [picked, setPicked] = useState<number[] | null>(null);
    const chosen = picked ?? usable.slice(0, SHOWN);
    const turn = (number: number) => setPicked(chosen.includes(number) ? chosen.filter((other) => other !== number) : [...chosen, number]);
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Pull board
            </Typography>
            {pulls.pulls.length > 0 ? (
                <>
                    <Overlay pulls={pulls} chosen={chosen} />
                    <Rows rows={pulls.pulls} chosen={chosen} onTurn={turn} />
                    <Together chosen={chosen} />
                    <Supply pulls={pulls} />
                </>
            ) : (
                <Typography sx={{ mb: 2 }}>No pull yet. Warm, in one gear, from low speed with the pedal wide open to below the limit; two of each before anything is changed.</Typography>
            )}
            <AddPull pulls={pulls} />
        </>
    );
}

/** The chosen pulls over speed. */
function Overlay({ pulls, chosen }: { pulls: Schemas['PullsOut']; chosen: readonly number[] }) {
    const { job } = useJob();
    const [channel, setChannel] = useState('torque_nm');
    const found = useQueries({ queries: chosen.map((number) => pullQuery(job.id, number)) });
    const newest = Math.max(...chosen);
    const series = found.flatMap(({ data }): Series[] => {
        if (!data) return [];
        const { rpm, values } = data.saved.pull;
        const shown = channel === 'power_kw' ? data.power_kw : (values[channel] ?? []);
        const points = rpm.map((speed, i): [number, number | null] => [speed, shown[i] ?? null]);
        return [{ name: `pull ${data.number}`, points, look: data.number === newest ? 'line' : 'broken' }];
    });
    return (
        <Box sx={{ maxWidth: 640, mb: 1 }}>
            <Choice label="Over speed" value={channel} onChange={setChannel} options={pulls.channels} width={220} />
            <CurvePlot title={pulls.channels[channel] ?? ''} xLabel="speed [rpm]" yLabel={`${pulls.channels[channel]} [${pulls.units[channel] || '–'}]`} series={series} height={300} />
        </Box>
    );
}

interface RowsProps {
    rows: Schemas['PullRowOut'][];
    chosen: readonly number[];
    onTurn: (number: number) => void;
}

function Rows({ rows, chosen, onTurn }: RowsProps) {
    const shown = useShown();
    const cell = { py: 0.5, px: 0.75, borderTop: 1, borderColor: 'divider', verticalAlign: 'top' } as const;
    const figure = { ...cell, fontFamily: mono, fontSize: '0.88rem', textAlign: 'right', whiteSpace: 'nowrap' } as const;
    return (
        <Box sx={{ overflowX: 'auto', mb: 2 }} tabIndex={0} role="region" aria-label="Pulls">
            <Box component="table" sx={{ borderCollapse: 'collapse', width: '100%' }}>
                <thead>
                    <tr>
                        {HEADS.map(([head, side]) => (
                            <Box component="th" key={head} sx={{ px: 0.75, textAlign: side, color: 'text.secondary', fontWeight: 600 }}>
                                {head}
                            </Box>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {rows.map((row) => (
                        <Box component="tr" key={row.number} sx={{ opacity: row.aside ? 0.55 : 1 }}>
                            <Box component="td" sx={{ ...cell, whiteSpace: 'nowrap' }}>
                                <Checkbox size="small" checked={chosen.includes(row.number)} disabled={Boolean(row.aside)} onChange={() => onTurn(row.number)} slotProps={{ input: { 'aria-label': `Pull ${row.number}` } }} />
                                {row.number}
                                {row.stand_in ? ' sim.' : ''}
                            </Box>
                            <Box component="td" sx={cell}>
                                {driven(row)}
                            </Box>
                            <Box component="td" sx={figure}>
                                {torqueOf(row)}
                            </Box>
                            <Box component="td" sx={figure}>
                                {row.peak_power_kw === null ? '–' : `${formatNumber(row.peak_power_kw, 0)} kW`}
                            </Box>
                            <Box component="td" sx={figure}>
                                {row.most_kpa === null ? '–' : shown(row.most_kpa, 'kPa', 0)}
                            </Box>
                            <Box component="td" sx={cell}>
                                <Doubts row={row} />
                            </Box>
                        </Box>
                    ))}
                </tbody>
            </Box>
        </Box>
    );
}

function Doubts({ row }: { row: Schemas['PullRowOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const aside = useMutation({ mutationFn: (reason: string) => setAside(job.id, row.number, reason), onSuccess: () => refresh(queryClient, job.id, 'pulls') });
    const stops = [...row.passed.map(({ sentence }) => sentence), ...(row.stop ? [row.stop] : [])];
    if (row.aside) return <Typography variant="body2">Set aside: {row.aside}</Typography>;
    return (
        <>
            {stops.map((sentence) => (
                <Typography key={sentence} variant="body2" sx={{ fontWeight: 650 }}>
                    <Mark state="fail" word={false} /> {inUnits(sentence, job.units)}
                </Typography>
            ))}
            {row.doubts.map((sentence) => (
                <Typography key={sentence} variant="body2">
                    {sentence}
                </Typography>
            ))}
            {(stops.length > 0 || row.doubts.length > 0) && <ReasonBox title="Set aside" label="Why it does not count" button="Set aside" pending={aside.isPending} error={aside.error} onWrite={aside.mutate} />}
        </>
    );
}

/** Holes in the mean torque, and the correction of the map at full load. */
function Together({ chosen }: { chosen: readonly number[] }) {
    const { job } = useJob();
    const navigate = useNavigate();
    const queryClient = useQueryClient();
    const dips = useQuery(dipsQuery(job.id, chosen)).data ?? [];
    const solve = useTask<readonly number[], { number: number }>(
        (numbers) => solveFullLoad(job.id, numbers),
        async () => {
            await refresh(queryClient, job.id, 'fuel-map');
            void navigate(`/jobs/${job.id}/fuel-map`);
        },
    );
    return (
        <Box sx={{ mb: 2 }}>
            {dips.map((dip) => (
                <Box key={dip.rpm} sx={{ borderLeft: 4, borderColor: 'warning.main', pl: 1.5, mb: 1 }}>
                    <Typography sx={{ fontWeight: 650 }}>{dip.sentence}</Typography>
                    <Typography variant="body2">The test: {dip.test}</Typography>
                    {dip.not_logged.length > 0 && <Typography variant="caption">Not logged, and would tell: {dip.not_logged.join(', ')}.</Typography>}
                </Box>
            ))}
            <Box sx={{ display: 'flex', gap: 2, alignItems: 'center' }}>
                <Button variant="outlined" sx={{ minHeight: 44 }} disabled={!chosen.length || solve.isPending} onClick={() => solve.begin(chosen)}>
                    Correct the mixture of full load by these pulls
                </Button>
                <TaskProgress task={solve} label="Correcting full load" />
                <Button component={Link} to={`/jobs/${job.id}/pulls/print`}>
                    Result for paper
                </Button>
            </Box>
            {solve.error && <ProblemNote error={solve.error} />}
        </Box>
    );
}

/** Duty and missing pressure of the strongest pull. */
function Supply({ pulls: { supply, limits } }: { pulls: Schemas['PullsOut'] }) {
    const line = (values: readonly (number | null)[]) => supply.rpm.map((rpm, i) => [rpm, values[i] ?? null] as const);
    return (
        <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: { xs: 'minmax(0, 1fr)', lg: 'repeat(2, minmax(0, 1fr))' }, mb: 2 }}>
            <CurvePlot title="Injector duty" xLabel="speed [rpm]" yLabel="injector duty [%]" series={[{ name: '', points: line(supply.duty_pct) }]} yEnds={[0]} yLimits={limits ? [{ at: limits.duty_pct, label: 'limit' }] : []} height={240} />
            <CurvePlot title="Fuel pressure below its target" xLabel="speed [rpm]" yLabel="pressure missing [kPa]" series={[{ name: '', points: line(supply.missing_kpa) }]} yEnds={[0, 10]} yLimits={limits ? [{ at: limits.pressure_falls_kpa, label: 'limit' }] : []} height={240} />
        </Box>
    );
}
