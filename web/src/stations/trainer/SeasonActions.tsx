import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { crankSeason, lookSeason, seasonQuery, seasonsQuery, sleepSeason, type Season } from '../../api/trainer';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';

type Kind = Schemas['SeasonStartIn']['kind'];

const STARTS: Record<Kind, string> = { cold: 'Cold start', 'half-warm': 'Half-warm restart', hot: 'Hot restart' };

/** What can be done today: start, look under the bonnet, or let it stand overnight. */
export function SeasonActions({ season }: { season: Season }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const navigate = useNavigate();
    const again = () =>
        Promise.all([seasonQuery(job.id).queryKey, seasonsQuery.queryKey].map((queryKey) => queryClient.invalidateQueries({ queryKey })));
    const crank = useMutation({
        mutationFn: (kind: Kind) => crankSeason(job.id, kind),
        onSuccess: async ({ trial_id }) => {
            await Promise.all([again(), refresh(queryClient, job.id, 'trials', 'logs')]);
            await navigate(`/jobs/${job.id}/trials/${trial_id}`);
        },
    });
    const sleep = useMutation({ mutationFn: () => sleepSeason(job.id), onSuccess: again });
    const failed = [crank, sleep].find((action) => action.isError);
    return (
        <Box sx={{ mb: 2 }}>
            <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', mb: 1.5 }}>
                {(Object.keys(STARTS) as Kind[]).map((kind) => (
                    <Button
                        key={kind}
                        variant="contained"
                        size="large"
                        disabled={crank.isPending || !season.may_start.includes(kind)}
                        onClick={() => crank.mutate(kind)}
                    >
                        {STARTS[kind]}
                    </Button>
                ))}
                <Button variant="outlined" size="large" disabled={sleep.isPending} onClick={() => sleep.mutate()}>
                    Let it stand overnight
                </Button>
            </Box>
            <Look causes={season.causes} onLooked={again} />
            {failed && <ProblemNote error={failed.error} />}
        </Box>
    );
}

function Look({ causes, onLooked }: { causes: Season['causes']; onLooked: () => Promise<unknown> }) {
    const { job } = useJob();
    const [cause, setCause] = useState('');
    const look = useMutation({ mutationFn: () => lookSeason(job.id, cause), onSuccess: onLooked });
    return (
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
            <TextField select label="Look under the bonnet for" value={cause} onChange={(event) => setCause(event.target.value)} sx={{ width: 360 }}>
                {causes.map((entry) => (
                    <MenuItem key={entry.key} value={entry.key}>
                        {entry.title}
                    </MenuItem>
                ))}
            </TextField>
            <Button variant="outlined" disabled={cause === '' || look.isPending} onClick={() => look.mutate()}>
                Look
            </Button>
            <Typography aria-live="polite">{look.data?.sentence}</Typography>
            {look.isError && <ProblemNote error={look.error} />}
        </Box>
    );
}
