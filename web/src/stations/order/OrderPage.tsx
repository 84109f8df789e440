import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { sessionQuery } from '../../api/vocabulary';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { mono } from '../../parts/theme';
import { describeEngine } from '../../parts/describeEngine';
import { GuestLinks } from './GuestLinks';
import { ImportCalibration } from './ImportCalibration';
import { PutAside } from './PutAside';

/** The order of work: every station with what it does. */
export function OrderPage() {
    const { job, vocabulary } = useJob();
    return (
        <WithMargin margin={<JobMargin />}>
            <Typography variant="h1" sx={{ mb: 0.5 }}>
                Order of work
            </Typography>
            <Typography sx={{ mb: 1.5 }}>Each station stands on the ones before it.</Typography>
            <Box component="ol" sx={{ listStyle: 'none', p: 0, m: 0, borderTop: 1, borderColor: 'divider' }}>
                {vocabulary.stations.map((station) => (
                    <Box
                        component="li"
                        key={station.key}
                        sx={{
                            display: 'grid',
                            gridTemplateColumns: { xs: '28px 1fr', sm: '36px 130px 1fr 110px' },
                            columnGap: 1,
                            py: 0.9,
                            px: 1,
                            borderBottom: 1,
                            borderColor: 'divider',
                            bgcolor: 'background.paper',
                        }}
                    >
                        <Box sx={{ fontFamily: mono }}>{station.number}</Box>
                        <Box sx={{ fontWeight: 700 }}>{station.title}</Box>
                        <Box sx={{ gridColumn: { xs: '2', sm: 'auto' } }}>
                            {station.does}
                            {job.gates
                                .filter((gate) => gate.key === station.key && !gate.is_open)
                                .map((gate) => (
                                    <Typography key={gate.closed_until} variant="body2" sx={{ color: gate.is_refused ? 'error.main' : 'warning.main' }}>
                                        {gate.closed_until}
                                    </Typography>
                                ))}
                        </Box>
                        <Box sx={{ textAlign: { sm: 'right' }, gridColumn: { xs: '2', sm: 'auto' } }}>
                            <Link to={`/jobs/${job.id}/${station.key === 'trial' ? 'record' : station.key}`}>
                                {station.key === 'trial' ? 'record a start' : 'open'}
                            </Link>
                        </Box>
                    </Box>
                ))}
            </Box>
        </WithMargin>
    );
}

/** What is for those who release. */
function OfTheWorkshop() {
    return (
        <>
            <ImportCalibration />
            <GuestLinks />
            <Box sx={{ mt: 3 }}>
                <PutAside />
            </Box>
        </>
    );
}

function JobMargin() {
    const { job } = useJob();
    const { data: session } = useQuery(sessionQuery);
    const rows: [string, string][] = [
        ['Reference pulse', `${job.judgement.reference_pulse_ms.toFixed(2)} ms`],
        ['Idle pulse, about', `${job.judgement.idle_pulse_ms.toFixed(2)} ms`],
        ['Duty at the limit, about', `${job.judgement.duty_at_limit_pct.toFixed(0)} %`],
    ];
    return (
        <>
            <Typography variant="h2" gutterBottom>
                {job.name}
            </Typography>
            <Typography variant="body2" gutterBottom>
                {describeEngine(job)}
            </Typography>
            {job.note && (
                <Typography variant="body2" sx={{ mb: 2 }}>
                    {job.note}
                </Typography>
            )}
            {rows.map(([name, value]) => (
                <Box key={name} sx={{ display: 'flex', justifyContent: 'space-between', py: 0.25 }}>
                    <Typography variant="body2">{name}</Typography>
                    <Typography variant="body2" sx={{ fontFamily: mono }}>
                        {value}
                    </Typography>
                </Box>
            ))}
            <Typography variant="body2" sx={{ mt: 1 }}>
                {job.judgement.sentences.join(' ')}
            </Typography>
            <Typography variant="h3" sx={{ mt: 3 }} gutterBottom>
                Take it along
            </Typography>
            <Typography variant="body2">
                Newest calibration as <a href={`/api/jobs/${job.id}/export?format=json`}>JSON</a> or{' '}
                <a href={`/api/jobs/${job.id}/export?format=csv`}>CSV</a>.
            </Typography>
            {session?.may_release && <OfTheWorkshop />}
        </>
    );
}
