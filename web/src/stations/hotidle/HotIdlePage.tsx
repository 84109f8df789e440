import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { WithMargin } from '../../parts/Margin';
import { ProblemNote } from '../../parts/ProblemNote';
import { AirSheet } from './AirSheet';
import { idleQuery } from './api';
import { ReturnSheet } from './ReturnSheet';
import { RulesSheet } from './RulesSheet';
import { SparkSheet } from './SparkSheet';
import { SteadySheet } from './SteadySheet';
import { StopSheet } from './StopSheet';
import { SweepSheet } from './SweepSheet';
import { VerdictMargin } from './VerdictMargin';

const PARTS = { stop: 'Stop', return: 'Return', sweep: 'Valve sweep', steady: 'Steady idle', air: 'Air and loads', spark: 'Target and spark', rules: 'Rules' };

/** Station 8: the warm idle made true, before anything cold. */
export function HotIdlePage() {
    const { job } = useJob();
    const { part = 'stop' } = useParams();
    const idle = useQuery(idleQuery(job.id));
    const base = `/jobs/${job.id}/hot-idle`;
    if (!idle.data) return idle.error ? <ProblemNote error={idle.error} /> : <Loading what="Opening the hot idle" />;
    const sheets: Record<string, React.ReactNode> = {
        return: <ReturnSheet idle={idle.data} />,
        sweep: <SweepSheet idle={idle.data} />,
        steady: <SteadySheet idle={idle.data} />,
        air: <AirSheet idle={idle.data} />,
        spark: <SparkSheet idle={idle.data} />,
        rules: <RulesSheet />,
    };
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs value={part in PARTS ? part : 'stop'} aria-label="Hot idle" variant="scrollable" sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}>
                {Object.entries(PARTS).map(([key, label]) => (
                    <Tab key={key} value={key} label={label} component={Link} to={key === 'stop' ? base : `${base}/${key}`} />
                ))}
            </Tabs>
            <WithMargin margin={<VerdictMargin idle={idle.data} />}>{sheets[part] ?? <StopSheet idle={idle.data} />}</WithMargin>
        </Box>
    );
}
