import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { keepStretch } from '../../api/live';
import { refresh } from '../../api/refresh';
import { useJob } from '../jobContext';
import { ProblemNote } from '../ProblemNote';
import { useLive } from './useLive';

interface Props {
    /** What is done from here on, on the button. */
    begin: string;
    /** What is then read of it. */
    end: string;
    onLog: (logId: number) => void;
}

/** What is done on the engine from one tap to the next, kept as a log and read; nothing without a link. */
export function LiveStretch({ begin, end, onLog }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const live = useLive();
    const [began, setBegan] = useState<{ session: number; time_s: number } | null>(null);
    const keep = useMutation({
        mutationFn: ({ session, time_s }: { session: number; time_s: number }) => keepStretch(job.id, session, { start_s: time_s, end_s: null }),
        onSuccess: async ({ log_id }) => {
            setBegan(null);
            await refresh(queryClient, job.id, 'logs');
            if (log_id !== null) onLog(log_id);
        },
    });
    const now = live?.view.state?.time_s;
    if (!live || now === undefined) return null;
    const isUnderWay = began?.session === live.session.id;
    return (
        <Box sx={{ display: 'flex', gap: 1.5, flexWrap: 'wrap', alignItems: 'center', mb: 2 }}>
            {isUnderWay ? (
                <>
                    <Button variant="contained" sx={{ minHeight: 48 }} disabled={keep.isPending} onClick={() => keep.mutate(began)}>
                        {end}
                    </Button>
                    <Typography>{Math.round(now - began.time_s)} s so far.</Typography>
                    <Button onClick={() => setBegan(null)}>Leave it</Button>
                </>
            ) : (
                <Button variant="contained" sx={{ minHeight: 48 }} onClick={() => setBegan({ session: live.session.id, time_s: now })}>
                    {begin}
                </Button>
            )}
            {keep.error && <ProblemNote error={keep.error} />}
        </Box>
    );
}
