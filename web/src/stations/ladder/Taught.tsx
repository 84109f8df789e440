import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { client, unwrap, type Trial } from '../../api/client';
import { pullsQuery, type Estimate } from '../../api/estimate';
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
    trials: Trial[];
}

/** What is believed of the selected cell, how each trial pulls on it, and which are set aside. */
export function Taught({ table, unit, decimals, coolantC, index, estimate, trials }: Props) {
    const { job } = useJob();
    const curve = estimate.curves.find((entry) => entry.table === table);
    const pulls = useQuery({ ...pullsQuery(job.id, table, coolantC), enabled: curve !== undefined });
    if (!curve) return null;
    const aside = estimate.aside.map((entry) => ({ ...entry, trial: trials.find((t) => t.id === entry.trial_id) }));
    const number = (values: number[]) => formatNumber(values[index] ?? 0, decimals);
    return (
        <Box component="section" aria-label="What trials say here">
            <Typography variant="h3">What trials say here</Typography>
            <Typography variant="body2">
                Believed{' '}
                <Box component="span" sx={{ fontFamily: mono, fontWeight: 600 }}>
                    {number(curve.mean)} {unit}
                </Box>
                , nine of ten between {number(curve.low)} and {number(curve.high)} {unit}; the engine data alone say {number(curve.expected)}.
            </Typography>
            {pulls.error && <Typography variant="body2">What each trial does to it could not be fetched.</Typography>}
            {pulls.data?.length === 0 && <Typography variant="body2">No trial has taught of this table yet.</Typography>}
            {(pulls.data ?? []).map(({ trial: n, pull }) => {
                const trial = trials.find((entry) => entry.number === n);
                return (
                    trial && (
                        <Stack key={n} direction="row" sx={{ gap: 1, alignItems: 'baseline', flexWrap: 'wrap', mt: 0.25 }}>
                            <Link to={`/jobs/${job.id}/trials/${trial.id}`}>Trial {n}</Link>
                            <Box component="span" sx={{ fontFamily: mono }}>
                                {pull > 0 ? '+' : ''}
                                {formatNumber(pull, decimals)} {unit}
                            </Box>
                            <Weigh trial={trial} counts={false} label="Set aside" />
                        </Stack>
                    )
                );
            })}
            {aside.map(
                ({ trial, reason }) =>
                    trial && (
                        <Typography key={trial.id} variant="body2" component="div" sx={{ mt: 0.5 }}>
                            <s>Trial {trial.number}</s>, set aside: {reason} <Weigh trial={trial} counts label="Let it count" />
                        </Typography>
                    ),
            )}
        </Box>
    );
}

/** Whether what a trial taught counts, written down with a reason. */
function Weigh({ trial, counts, label }: { trial: Trial; counts: boolean; label: string }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [open, setOpen] = useState(false);
    const [reason, setReason] = useState('');
    const weigh = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST('/api/jobs/{job_id}/trials/{trial_id}/weigh', {
                    params: { path: { job_id: job.id, trial_id: trial.id } },
                    body: { counts, reason },
                }),
            ),
        onSuccess: async () => {
            setOpen(false);
            await refresh(queryClient, job.id, 'trials');
        },
    });
    if (!open) {
        return (
            <Button size="small" aria-label={`${label}: trial ${trial.number}`} onClick={() => setOpen(true)}>
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
