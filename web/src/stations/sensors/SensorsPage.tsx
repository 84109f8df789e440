import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import { hardwareQuery } from '../../api/hardware';
import { keyOnQuery, sensorsQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { AgreementSheet } from './AgreementSheet';
import { KeyOnSheet } from './KeyOnSheet';
import { SensorSheet } from './SensorSheet';

/** Station 3: the sensors, their check at key-on, and whether gauge and log agree. */
export function SensorsPage() {
    const { job } = useJob();
    const { part = 'entered', sensor } = useParams();
    const hardware = useQuery(hardwareQuery);
    const sensors = useQuery(sensorsQuery(job.id));
    const keyOn = useQuery(keyOnQuery(job.id));
    const base = `/jobs/${job.id}/sensors`;
    const error = hardware.error ?? sensors.error ?? keyOn.error;
    if (!hardware.data || !sensors.data || !keyOn.data) {
        return error ? <ProblemNote error={error} /> : <Loading what="Opening the sensors" />;
    }
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs value={part} aria-label="Sensors" sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}>
                <Tab value="entered" label="Sensors" component={Link} to={base} />
                <Tab value="key-on" label="Key-on check" component={Link} to={`${base}/key-on`} />
                <Tab value="agreement" label="Gauge against log" component={Link} to={`${base}/agreement`} />
            </Tabs>
            {part === 'key-on' ? (
                <KeyOnSheet hardware={hardware.data} sensors={sensors.data} keyOn={keyOn.data} />
            ) : part === 'agreement' ? (
                <AgreementSheet hardware={hardware.data} sensors={sensors.data} />
            ) : (
                <SensorSheet
                    hardware={hardware.data}
                    sensors={sensors.data}
                    check={keyOn.data.checks[0]}
                    chosen={sensor}
                />
            )}
        </Box>
    );
}
