import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';

import { passQuery } from '../../api/fuelMap';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { PrintBar } from '../../parts/PrintBar';
import { ProblemNote } from '../../parts/ProblemNote';
import { moment } from '../../parts/when';
import { formatNumber } from '../../units/units';
import { DrivingCaution } from './DrivingCaution';

/** What to drive next, for paper: places to hold, and room to tick them off. */
export function DrivePlanPage() {
    const { job } = useJob();
    const { number } = useParams();
    const pass = useQuery(passQuery(job.id, Number(number)));
    if (!pass.data) return pass.error ? <ProblemNote error={pass.error} /> : <Loading what="Setting the plan" />;
    const { result, at } = pass.data;
    return (
        <Box sx={{ p: 2, bgcolor: 'background.paper' }} className="print-list">
            <PrintBar to={`/jobs/${job.id}/fuel-map`} back="Back to the fuel map" />
            <Typography variant="h1">What to drive next: {job.name}</Typography>
            <Typography sx={{ mb: 1 }}>
                After pass {number} of {moment(at)}. The engine warm, the log running; hold each place steadily, any gear that reaches it, and go on to the next.
            </Typography>
            <DrivingCaution />
            {!result.plan.length && <Typography>Nothing more is worth a drive.</Typography>}
            <Box component="table" sx={{ borderCollapse: 'collapse', width: '100%', maxWidth: 760, '& th, & td': { textAlign: 'left', px: 0.75, py: 1, borderTop: 1, borderColor: 'divider' } }}>
                <thead>
                    <tr>
                        {['Speed', 'Load', 'Hold', 'Why', 'Driven'].map((head) => (
                            <th key={head} scope="col">
                                {head}
                            </th>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {result.plan.map((point) => (
                        <tr key={`${point.rpm} ${point.load}`}>
                            <td>{formatNumber(point.rpm, 0)} rpm</td>
                            <td>
                                {formatNumber(point.load, 0)} {result.load_unit}
                            </td>
                            <td>{formatNumber(point.seconds, 0)} s</td>
                            <td>{point.why}</td>
                            <td aria-label="to tick off">☐</td>
                        </tr>
                    ))}
                </tbody>
            </Box>
        </Box>
    );
}
