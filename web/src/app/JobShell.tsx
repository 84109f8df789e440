import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Outlet, useNavigate, useParams } from 'react-router';

import { jobQuery, trialsQuery, vocabularyQuery } from '../api/queries';
import { Loading } from '../parts/Loading';
import { ProblemNote } from '../parts/ProblemNote';
import { JobContext } from './jobContext';
import { NextAction } from './NextAction';
import { nextActionPath } from './nextActionPath';
import { useKeys } from './shortcuts';
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
    useKeys({
        'g o': () => void navigate(base),
        'g s': () => void navigate(`${base}/sensors`),
        'g k': () => void navigate(`${base}/sensors/key-on`),
        'g e': () => void navigate(`${base}/intake`),
        'g m': () => void navigate(`${base}/base-maps`),
        'g b': () => void navigate(`${base}/base-maps/tables/ve`),
        'g x': () => void navigate(`${base}/base-maps/transfer`),
        'g w': () => void navigate(`${base}/wiring`),
        'g c': () => void navigate(`${base}/trigger`),
        'g i': () => void navigate(`${base}/injectors`),
        'g l': () => void navigate(`${base}/ladder`),
        'g r': () => void navigate(`${base}/record`),
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
    if (!context) return <Loading what="Opening the job" />;
    return (
        <JobContext value={context}>
            <Box sx={{ minHeight: '100%', display: 'flex', flexDirection: 'column' }}>
                <TopBar title={context.job.name}>
                    <UnitsMenu />
                </TopBar>
                <StationLine newestTrial={newest?.id} />
                <NextAction trials={trials.data ?? []} />
                <Box component="main" sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
                    <Outlet />
                </Box>
            </Box>
        </JobContext>
    );
}
