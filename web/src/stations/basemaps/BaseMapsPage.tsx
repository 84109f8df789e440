import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import { baseMapsQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { AxesSheet } from './AxesSheet';
import { BenchSheet } from './BenchSheet';
import { CarrySheet } from './CarrySheet';
import { CompareSheet } from './CompareSheet';
import { GenerateSheet } from './GenerateSheet';
import { TransferSheet } from './TransferSheet';

const PARTS: [string, string][] = [
    ['generate', 'Generate'],
    ['tables', 'Table bench'],
    ['carry-over', 'Carry over'],
    ['breakpoints', 'Breakpoints'],
    ['compare', 'Compare'],
    ['transfer', 'Into the controller'],
];

/** Station 6: base maps, and the bench on which every table is worked. */
export function BaseMapsPage() {
    const { job } = useJob();
    const { part = 'generate', table } = useParams();
    const maps = useQuery(baseMapsQuery(job.id));
    const base = `/jobs/${job.id}/base-maps`;
    if (!maps.data) return maps.error ? <ProblemNote error={maps.error} /> : <Loading what="Opening the base maps" />;
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs value={part} aria-label="Base maps" variant="scrollable" className="no-print" sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}>
                {PARTS.map(([key, label]) => (
                    <Tab key={key} value={key} label={label} component={Link} to={key === 'generate' ? base : `${base}/${key}`} />
                ))}
            </Tabs>
            {part === 'tables' ? (
                <BenchSheet table={table ?? 've'} base={`${base}/tables`} />
            ) : part === 'carry-over' ? (
                <CarrySheet revision={maps.data.revision} />
            ) : part === 'breakpoints' ? (
                <AxesSheet key={maps.data.revision} maps={maps.data} />
            ) : part === 'compare' ? (
                <CompareSheet newest={maps.data.revision} />
            ) : part === 'transfer' ? (
                <TransferSheet />
            ) : (
                <GenerateSheet key={maps.data.revision} maps={maps.data} />
            )}
        </Box>
    );
}
