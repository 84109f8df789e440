import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import { triggerQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { CaptureSheet } from './CaptureSheet';
import { DwellSheet } from './DwellSheet';
import { OutputTestsSheet } from './OutputTestsSheet';
import { TimingSheet } from './TimingSheet';
import { WheelSheet } from './WheelSheet';

/** Station 5: the wheel, its captured edges, the timing light, dwell, and every output tried. */
export function TriggerPage() {
    const { job } = useJob();
    const { part = 'wheel' } = useParams();
    const trigger = useQuery(triggerQuery(job.id));
    const base = `/jobs/${job.id}/trigger`;
    if (!trigger.data) return trigger.error ? <ProblemNote error={trigger.error} /> : <Loading what="Opening the trigger" />;
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs value={part} aria-label="Trigger and timing" variant="scrollable" allowScrollButtonsMobile sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}>
                <Tab value="wheel" label="Wheel" component={Link} to={base} />
                <Tab value="capture" label="Edge capture" component={Link} to={`${base}/capture`} />
                <Tab value="outputs" label="Output tests" component={Link} to={`${base}/outputs`} />
                <Tab value="dwell" label="Dwell" component={Link} to={`${base}/dwell`} />
                <Tab value="timing" label="Timing light" component={Link} to={`${base}/timing`} />
            </Tabs>
            {part === 'capture' ? (
                <CaptureSheet trigger={trigger.data} />
            ) : part === 'timing' ? (
                <TimingSheet key={trigger.data.number} trigger={trigger.data} />
            ) : part === 'dwell' ? (
                <DwellSheet />
            ) : part === 'outputs' ? (
                <OutputTestsSheet />
            ) : (
                <WheelSheet key={trigger.data.number} saved={trigger.data} />
            )}
        </Box>
    );
}
