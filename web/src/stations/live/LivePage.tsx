import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import type { Schemas } from '../../api/client';
import { liveQuery } from '../../api/live';
import { Caution } from '../../parts/Caution';
import { useJob } from '../../parts/jobContext';
import { LivePanel, useLive, WatchList } from '../../parts/live';
import { WithMargin } from '../../parts/Margin';
import { moment } from '../../parts/when';
import { formatNumber } from '../../units/units';

const CHANNELS = ['rpm', 'map_kpa', 'lambda', 'idle_valve_pct', 'oil_pressure_kpa', 'fuel_pressure_kpa', 'battery_v'] as const;

/** The live link by itself: everything that comes, the watch list, and what became of earlier sessions. */
export function LivePage() {
    const { job } = useJob();
    const live = useLive();
    const sessions = useQuery(liveQuery(job.id)).data?.sessions ?? [];
    const state = live?.view.state;
    return (
        <WithMargin margin={<Sessions sessions={sessions} />}>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Live link
            </Typography>
            {state && <WatchList lines={state.watch} />}
            <LivePanel channels={CHANNELS} />
            {state && (
                <Typography variant="body2">
                    {state.rows} samples came, {state.kept} of them are on the disk; the newest is {formatNumber(state.lag_s, 1)} s old.
                </Typography>
            )}
            <Caution>A running engine moves: hands, sleeves and leads away from belts, fans and pulleys. Exhaust gas kills indoors. Local codes and licensed practice come first.</Caution>
        </WithMargin>
    );
}

/** Earlier sessions, and the log of each. */
function Sessions({ sessions }: { sessions: Schemas['LiveSessionOut'][] }) {
    const { job } = useJob();
    const over = sessions.filter(({ status }) => status !== 'open');
    return (
        <>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Earlier sessions
            </Typography>
            {!over.length && <Typography variant="body2">None yet. Closing a session writes its log; trials, sweeps and the run-in read it like any other.</Typography>}
            {over.map((session) => (
                <Box key={session.id} sx={{ borderTop: 1, borderColor: 'divider', py: 1 }}>
                    <Typography sx={{ fontWeight: 650 }}>
                        Session {session.id}, {moment(session.created_at)}
                    </Typography>
                    <Typography variant="body2">
                        {session.title}. {session.sentence}
                    </Typography>
                    {session.log_id !== null && (
                        <Link to={`/jobs/${job.id}/logbook`}>Its log stands in the logbook</Link>
                    )}
                </Box>
            ))}
        </>
    );
}
