import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import type { Schemas } from '../../api/client';
import { solvePass } from '../../api/fuelMap';
import { logsQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { Group } from '../../parts/Group';
import { useJob } from '../../parts/jobContext';
import { Mark } from '../../parts/Mark';
import { NumberField } from '../../parts/NumberField';
import { ProblemNote } from '../../parts/ProblemNote';
import { TaskProgress } from '../../parts/TaskProgress';
import { mono } from '../../parts/theme';
import { useTask } from '../../parts/useTask';
import { formatNumber, parseNumber } from '../../units/units';
import { pointsQuery } from './api';

/** Load points on a brake: what to hold, what was held, which gaps are left, and the steady points into the fuel map. */
export function PointsSheet() {
    const { job } = useJob();
    const navigate = useNavigate();
    const queryClient = useQueryClient();
    const logs = useQuery(logsQuery(job.id)).data ?? [];
    const [chosen, setChosen] = useState<number[]>([]);
    const [speeds, setSpeeds] = useState({ from: '1500', to: '4500', step: '500' });
    const [throttles, setThrottles] = useState('5 10 20 40 100');
    const body = {
        from_rpm: parseNumber(speeds.from) ?? 0,
        to_rpm: parseNumber(speeds.to) ?? 0,
        step_rpm: parseNumber(speeds.step) ?? 0,
        throttles: throttles.split(/[\s;]+/).flatMap((text) => parseNumber(text) ?? []),
        log_ids: chosen,
    };
    const plan = useQuery(pointsQuery(job.id, body));
    const solve = useTask<number[], { number: number }>(
        (ids) => solvePass(job.id, { log_ids: ids }),
        async () => {
            await refresh(queryClient, job.id, 'fuel-map');
            void navigate(`/jobs/${job.id}/fuel-map`);
        },
    );
    const speed = (name: keyof typeof speeds, label: string) => <NumberField label={label} unit="rpm" value={speeds[name]} onChange={(text) => setSpeeds({ ...speeds, [name]: text })} />;
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Load points on a brake
            </Typography>
            <Group title="Which points">
                {speed('from', 'From')}
                {speed('to', 'To')}
                {speed('step', 'Every')}
                <NumberField label="Throttles" unit="%" value={throttles} onChange={setThrottles} help="light to heavy, parted by spaces" />
            </Group>
            {logs.map((log) => (
                <FormControlLabel key={log.id} sx={{ display: 'flex' }} control={<Checkbox checked={chosen.includes(log.id)} onChange={() => setChosen(chosen.includes(log.id) ? chosen.filter((one) => one !== log.id) : [...chosen, log.id])} />} label={`${log.name}, ${Math.round(log.duration_s / 60)} min`} />
            ))}
            {plan.error && <ProblemNote error={plan.error} />}
            {plan.data && (
                <>
                    <Typography sx={{ my: 1, fontWeight: 650 }}>{chosen.length ? plan.data.gaps : 'Hold each until it is steady, in this order: heat then does not run with speed. Choose the logs to see what was held.'}</Typography>
                    <Points held={plan.data.held} measured={chosen.length > 0} />
                    <Box sx={{ display: 'flex', gap: 2, alignItems: 'center', my: 1.5 }}>
                        <Button variant="contained" sx={{ minHeight: 44 }} disabled={!chosen.length || solve.isPending} onClick={() => solve.begin(chosen)}>
                            Steady points into the fuel map
                        </Button>
                        <TaskProgress task={solve} label="Solving the map" />
                    </Box>
                    {solve.error && <ProblemNote error={solve.error} />}
                </>
            )}
        </>
    );
}

const cell = { px: 1, py: 0.4, borderTop: 1, borderColor: 'divider', textAlign: 'right' } as const;
const HEADS = ['', 'rpm', 'throttle %', 'hold s', 'held s', 'torque N·m', 'lambda'];

function Points({ held, measured }: { held: Schemas['HeldPoint'][]; measured: boolean }) {
    const figure = (value: number | null, digits: number) => (value === null || !measured ? '' : formatNumber(value, digits));
    return (
        <Box sx={{ maxHeight: 420, overflow: 'auto', bgcolor: 'background.paper', border: 1, borderColor: 'divider' }} tabIndex={0} role="region" aria-label="Load points">
            <Box component="table" sx={{ borderCollapse: 'collapse', fontFamily: mono, fontSize: '0.9rem', width: '100%' }}>
                <thead>
                    <tr>
                        {HEADS.map((head) => (
                            <Box component="th" key={head} scope="col" sx={{ px: 1, textAlign: 'right', color: 'text.secondary' }}>
                                {head}
                            </Box>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {held.map((point) => (
                        <tr key={`${point.rpm} ${point.throttle_pct}`}>
                            <Box component="td" sx={{ ...cell, textAlign: 'left' }}>
                                {measured && <Mark state={point.is_gap ? 'not_read' : 'pass'} word={false} />}
                            </Box>
                            {[
                                formatNumber(point.rpm, 0),
                                formatNumber(point.throttle_pct, 0),
                                formatNumber(point.hold_s, 0),
                                figure(point.held_s, 1),
                                figure(point.torque_nm, 0),
                                figure(point.lambda_read, 3),
                            ].map((text, place) => (
                                <Box component="td" key={HEADS[place + 1]} sx={cell}>
                                    {text}
                                </Box>
                            ))}
                        </tr>
                    ))}
                </tbody>
            </Box>
        </Box>
    );
}
