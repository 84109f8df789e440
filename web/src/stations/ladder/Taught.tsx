import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { client, unwrap, type TrialRow } from '../../api/client';
import { pullsQuery, type Estimate } from '../../api/ladder';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { mono } from '../../parts/theme';
import { formatNumber } from '../../units/units';

interface Props {
    table: string;
    unit: string;
    decimals: number;
    coolantC: number;
    index: number;
    estimate: Estimate;
    trials: TrialRow[];
}

/** What is believed of the selected cell, how each trial pulls on it, and which are set aside. */
export function Taught({ table, unit, decimals, coolantC, index, estimate, trials }: Props) {
    const { job } = useJob();
    const curve = estimate.tables[table];
    const pulls = useQuery({ ...pullsQuery(job.id, table, coolantC), enabled: curve !== undefined });
    if (!curve) return null;
    const number = (values: number[]) => formatNumber(values[index] ?? 0, decimals);
    return (
        <Box component="section" aria-label="What trials say here">
            <Typography variant="h3">What trials say here</Typography>
            <Typography variant="body2">
                Believed{' '}
                <Box component="span" sx={{ fontFamily: mono, fontWeight: 600 }}>
                    {number(curve.value)} {unit}
                </Box>
                , nine of ten between {number(curve.low)} and {number(curve.high)} {unit}; the engine data alone say {number(curve.expected)}.
            </Typography>
            {pulls.error && <Typography variant="body2">What each trial does to it could not be fetched.</Typography>}
            {pulls.data?.length === 0 && <Typography variant="body2">No trial has taught of this table yet.</Typography>}
            {(pulls.data ?? []).map(({ trial: n, pull }) => {
                const trial = trials.find((entry) => entry.number === n);
                return (
                    <Stack key={n} direction="row" sx={{ gap: 1, alignItems: 'baseline', flexWrap: 'wrap', mt: 0.25 }}>
                        {trial ? <Link to={`/jobs/${job.id}/trials/${trial.id}`}>Trial {n}</Link> : <span>Trial {n}</span>}
                        <Box component="span" sx={{ fontFamily: mono }}>
                            {pull > 0 ? '+' : ''}
                            {formatNumber(pull, decimals)} {unit}
                        </Box>
                        <Weigh number={n} way="strike" label="Set aside" />
                    </Stack>
                );
            })}
            {estimate.struck.map(({ number: n, reason }) => (
                <Typography key={n} variant="body2" component="div" sx={{ mt: 0.5 }}>
                    <s>Trial {n}</s>, set aside: {reason} <Weigh number={n} way="restore" label="Let it count" />
                </Typography>
            ))}
        </Box>
    );
}

/** Whether what a trial taught counts, written down with a reason. */
function Weigh({ number, way, label }: { number: number; way: 'strike' | 'restore'; label: string }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [open, setOpen] = useState(false);
    const [reason, setReason] = useState('');
    const weigh = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST(`/api/jobs/{job_id}/ladder/evidence/{number}/${way}`, {
                    params: { path: { job_id: job.id, number } },
                    body: { reason },
                }),
            ),
        onSuccess: async () => {
            setOpen(false);
            await refresh(queryClient, job.id, 'trials');
        },
    });
    if (!open) {
        return (
            <Button size="small" aria-label={`${label}: trial ${number}`} onClick={() => setOpen(true)}>
                {label}
            </Button>
        );
    }
    return (
        <Stack sx={{ width: '100%', gap: 0.5, py: 0.5 }}>
            <TextField label="Why" value={reason} onChange={(event) => setReason(event.target.value)} size="small" autoFocus />
            {weigh.error && <ProblemNote error={weigh.error} />}
            <Stack direction="row" sx={{ gap: 1 }}>
                <Button variant="contained" size="small" disabled={!reason.trim() || weigh.isPending} onClick={() => weigh.mutate()}>
                    {label}
                </Button>
                <Button size="small" onClick={() => setOpen(false)}>
                    Back
                </Button>
            </Stack>
        </Stack>
    );
}
