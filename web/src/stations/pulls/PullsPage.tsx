import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { inUnits } from '../../units/said';
import { Caution } from '../../parts/Caution';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { WithMargin } from '../../parts/Margin';
import { ProblemNote } from '../../parts/ProblemNote';
import { ReasonBox } from '../../parts/ReasonBox';
import { openAgain, pullsQuery } from './api';
import { BoardSheet } from './BoardSheet';
import { BoostSheet } from './BoostSheet';
import { CompareSheet } from './CompareSheet';
import { LimitsSheet } from './LimitsSheet';
import { PointsSheet } from './PointsSheet';
import { PullsMargin } from './PullsMargin';
import { SparkSheet } from './SparkSheet';

const PARTS = { board: 'Board', limits: 'Limits and checks', compare: 'A against B', points: 'Load points', boost: 'Boost', spark: 'Spark and cams' };

/** Station 12: each pull a record, differences with their uncertainty, boost by steps that have a reason. */
export function PullsPage() {
    const { job } = useJob();
    const pulls = useQuery(pullsQuery(job.id));
    const { part } = useParams();
    const base = `/jobs/${job.id}/pulls`;
    if (!pulls.data) return pulls.error ? <ProblemNote error={pulls.error} /> : <Loading what="Opening the pulls" />;
    // Nothing is pulled before the limits stand.
    const first = pulls.data.limits && !pulls.data.open_checks.length ? 'board' : 'limits';
    const shown = part && part in PARTS ? part : first;
    const sheets: Record<string, React.ReactNode> = {
        limits: <LimitsSheet pulls={pulls.data} />,
        compare: <CompareSheet pulls={pulls.data} />,
        points: <PointsSheet />,
        boost: <BoostSheet pulls={pulls.data} />,
        spark: <SparkSheet pulls={pulls.data} />,
    };
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs value={shown} aria-label="Pulls" variant="scrollable" sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}>
                {Object.entries(PARTS)
                    .filter(([key]) => key !== 'boost' || pulls.data.is_boosted)
                    .map(([key, label]) => (
                        <Tab key={key} value={key} label={label} component={Link} to={`${base}/${key}`} />
                    ))}
            </Tabs>
            <WithMargin margin={<PullsMargin pulls={pulls.data} />}>
                <Closed pulls={pulls.data} />
                {sheets[shown] ?? <BoardSheet pulls={pulls.data} />}
                <Caution>
                    Rollers, couplings, wheels and fans turn: nobody beside them, car tied down, exhaust extracted, hearing protected. Over-boost and knock destroy engines. On a road only where it is lawful. Local codes and licensed practice come first.
                </Caution>
            </WithMargin>
        </Box>
    );
}

/** A pull beyond a limit closes the station until a reason is written. */
function Closed({ pulls }: { pulls: Schemas['PullsOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const open = useMutation({ mutationFn: (reason: string) => openAgain(job.id, reason), onSuccess: () => refresh(queryClient, job.id, 'pulls') });
    if (pulls.closed_by === null) return null;
    return (
        <Box role="alert" sx={{ border: 3, borderColor: 'error.main', bgcolor: 'background.paper', p: 1.5, mb: 2 }}>
            <Typography sx={{ fontSize: '1.3rem', fontWeight: 700 }}>STOP after pull {pulls.closed_by}</Typography>
            <Typography sx={{ mb: 1 }}>{inUnits(pulls.closed_sentence, job.units)}</Typography>
            <ReasonBox title="Mended: pull again" label="What was mended, or why the next pull may follow" button="Open it again" pending={open.isPending} error={open.error} onWrite={open.mutate} />
        </Box>
    );
}
