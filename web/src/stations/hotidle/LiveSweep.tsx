import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import { keepStretch, sweepLive } from '../../api/live';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { LivePanel, useCommand, useLive, type Live } from '../../parts/live';
import { ProblemNote } from '../../parts/ProblemNote';

const CHANNELS = ['rpm', 'idle_valve_pct', 'map_kpa'] as const;

/** The sweep driven over the live link: started here, watched, and read as soon as it is done. */
export function LiveSweep({ onLog }: { onLog: (logId: number) => void }) {
    const live = useLive();
    return (
        <>
            {live && <Drive live={live} onLog={onLog} />}
            <LivePanel coolant={85} channels={CHANNELS} isShort />
        </>
    );
}

function Drive({ live, onLog }: { live: Live; onLog: (logId: number) => void }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const { tablet } = useCommand(live);
    const sweep = live.view.state?.sweep;
    const begin = useMutation({
        mutationFn: () => sweepLive(job.id, live.session.id, { tablet }),
        onSuccess: (state) => live.link.told(state),
    });
    const read = useMutation({
        mutationFn: () => keepStretch(job.id, live.session.id, { start_s: sweep?.start_s ?? 0, end_s: sweep?.end_s ?? null }),
        onSuccess: async ({ log_id }) => {
            await refresh(queryClient, job.id, 'logs');
            if (log_id !== null) onLog(log_id);
        },
    });
    const isRunning = sweep?.state === 'running';
    return (
        <Box sx={{ mb: 2 }}>
            <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', mb: 1 }}>
                <Button variant="contained" sx={{ minHeight: 48 }} disabled={isRunning || begin.isPending} onClick={() => begin.mutate()}>
                    Step the valve through its range
                </Button>
                {sweep && !isRunning && (
                    <Button variant="outlined" sx={{ minHeight: 48 }} disabled={read.isPending} onClick={() => read.mutate()}>
                        Read this sweep
                    </Button>
                )}
            </Box>
            {sweep && (
                <>
                    {isRunning && <LinearProgress variant="determinate" value={100 * sweep.share} aria-label="Sweep driven" sx={{ height: 8, mb: 0.5 }} />}
                    <Typography variant="body2">{sweep.sentence}</Typography>
                </>
            )}
            {begin.error && <ProblemNote error={begin.error} />}
            {read.error && <ProblemNote error={read.error} />}
        </Box>
    );
}
