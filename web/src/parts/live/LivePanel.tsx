import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { closeLive, liveQuery } from '../../api/live';
import { refresh } from '../../api/refresh';
import { inUnits } from '../../units/said';
import { useJob } from '../jobContext';
import { ProblemNote } from '../ProblemNote';
import { LiveControls } from './LiveControls';
import { LiveTrace } from './LiveTrace';
import { OpenLive } from './OpenLive';
import { useLive, type Live } from './useLive';

interface Props {
    /** What the engine stands there as, for the form that opens a session. */
    coolant?: number;
    fresh?: boolean;
    /** Which channels are drawn, from above. */
    channels?: readonly string[];
    isShort?: boolean;
}

const USUAL = ['rpm', 'map_kpa', 'lambda', 'idle_valve_pct'] as const;

/** The live link on a sheet: opened here, drawn, commanded and closed. */
export function LivePanel({ coolant = 15, fresh = false, channels = USUAL, isShort = false }: Props) {
    const { job } = useJob();
    const live = useLive();
    const sessions = useQuery(liveQuery(job.id));
    const broken = sessions.data?.sessions.find(({ status }) => status === 'broken off');
    if (!sessions.data) return sessions.error ? <ProblemNote error={sessions.error} /> : null;
    return (
        <Box component="section" aria-label="Live link" sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.paper', p: 1.5, mb: 2 }}>
            {broken && <BrokenOff number={broken.id} />}
            {live ? (
                <>
                    <LiveHead live={live} />
                    <LiveControls live={live} />
                    <LiveTrace link={live.link} channels={channels} height={isShort ? 46 : 58} />
                </>
            ) : (
                <OpenLive coolant={coolant} fresh={fresh} faults={sessions.data.faults} valves={sessions.data.valves} listens={sessions.data.listens} />
            )}
        </Box>
    );
}

/** What it is, which tables it holds, whether the link holds, and its end. */
function LiveHead({ live: { session, view } }: { live: Live }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const close = useMutation({ mutationFn: () => closeLive(job.id, session.id), onSuccess: () => refresh(queryClient, job.id, 'live', 'logs') });
    const state = view.state;
    const isLost = view.status === 'lost';
    return (
        <>
            <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'baseline', flexWrap: 'wrap' }}>
                <Typography variant="h3" component="h2">
                    {session.stand_in ? 'Simulated engine' : session.title}
                </Typography>
                <Typography variant="body2" sx={{ flex: 1, minWidth: 200 }}>
                    {session.stand_in ? 'Not a real one. ' : ''}It holds {session.tables}.
                </Typography>
                <Button size="small" disabled={close.isPending} onClick={() => close.mutate()}>
                    Close and keep the log
                </Button>
            </Box>
            {isLost && (
                <Typography role="alert" sx={{ color: 'warning.main', fontWeight: 650 }}>
                    The link is down. The engine goes on by itself, and nothing of it is lost: it comes back by itself, too.
                </Typography>
            )}
            {state && state.silent_s > 0 && (
                <Typography role="alert" sx={{ color: 'warning.main', fontWeight: 650 }}>
                    Nothing has come for {Math.round(state.silent_s)} s.
                </Typography>
            )}
            {state?.problems.map((sentence) => (
                <Typography key={sentence} variant="body2" sx={{ color: 'warning.main' }}>
                    {inUnits(sentence, job.units)}
                </Typography>
            ))}
            {close.error && <ProblemNote error={close.error} />}
        </>
    );
}

/** A session whose server was stopped: what had come is kept, as a log, on a tap. */
function BrokenOff({ number }: { number: number }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const close = useMutation({ mutationFn: () => closeLive(job.id, number), onSuccess: () => refresh(queryClient, job.id, 'live', 'logs') });
    return (
        <Box role="alert" sx={{ mb: 1 }}>
            <Typography sx={{ mb: 0.5 }}>Live session {number} broke off. What had come is kept.</Typography>
            <Button variant="outlined" disabled={close.isPending} onClick={() => close.mutate()}>
                Write its log
            </Button>
            {close.error && <ProblemNote error={close.error} />}
        </Box>
    );
}
