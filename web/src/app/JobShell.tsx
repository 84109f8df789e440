import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Outlet, useNavigate, useParams } from 'react-router';

import { jobQuery } from '../api/jobs';
import { trialsQuery } from '../api/logbook';
import { vocabularyQuery } from '../api/vocabulary';
import { setUnitsInForce } from '../units/said';
import { Loading } from '../parts/Loading';
import { ProblemNote } from '../parts/ProblemNote';
import { STATIONS } from '../stations/registry';
import { JobContext } from '../parts/jobContext';
import { NextAction } from './NextAction';
import { nextActionPath } from './nextActionPath';
import { useKeys } from '../parts/shortcuts';
import { RoleBar } from './RoleBar';
import { SeasonBar } from './SeasonBar';
import { StationLine } from './StationLine';
import { TopBar } from './TopBar';
import { UnitsMenu } from './UnitsMenu';

/** Sheets of one job: station line, next action, and the sheet. */
export function JobShell() {
    const jobId = Number(useParams().jobId);
    const navigate = useNavigate();
    const job = useQuery({ ...jobQuery(jobId), enabled: Number.isFinite(jobId) });
    const trials = useQuery({ ...trialsQuery(jobId), enabled: Number.isFinite(jobId) });
    const vocabulary = useQuery(vocabularyQuery);
    const newest = trials.data?.[0];
    const base = `/jobs/${jobId}`;
    const ways = STATIONS.flatMap((station) => station.ways);
    useKeys({
        ...Object.fromEntries(ways.map(({ keys, to }) => [keys, () => void navigate(`${base}/${to}`)])),
        'g o': () => void navigate(base),
        'g t': () => void (newest && navigate(`${base}/trials/${newest.id}`)),
        n: () => void (job.data && navigate(nextActionPath(job.data, trials.data ?? []))),
    });
    const context = useMemo(
        () => (job.data && vocabulary.data ? { job: job.data, vocabulary: vocabulary.data } : null),
        [job.data, vocabulary.data],
    );
    if (job.isError && !job.data) {
        return (
            <Box sx={{ p: 3 }}>
                <ProblemNote error={job.error} />
            </Box>
        );
    }
    if (context) setUnitsInForce(context.job.units);
    if (!context) return <Loading what="Opening the job" />;
    return (
        <JobContext value={context}>
            <Box sx={{ minHeight: '100%', display: 'flex', flexDirection: 'column' }}>
                <TopBar title={context.job.name}>
                    <UnitsMenu />
                </TopBar>
                <StationLine newestTrial={newest?.id} />
                <RoleBar />
                <SeasonBar jobId={jobId} />
                <NextAction trials={trials.data ?? []} />
                <Box component="main" sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
                    <Outlet />
                </Box>
            </Box>
        </JobContext>
    );
}
