import { Suspense } from 'react';
import { usePrefetchQuery, useQuery } from '@tanstack/react-query';
import { Outlet, useMatch } from 'react-router';

import { jobQuery } from '../api/jobs';
import { trialsQuery } from '../api/logbook';
import { sessionQuery, vocabularyQuery } from '../api/vocabulary';
import { Loading } from '../parts/Loading';
import { ProblemNote } from '../parts/ProblemNote';
import { lazyPage } from '../parts/lazyPage';

const SignIn = lazyPage(() => import('./SignIn'), 'SignIn');

/** Nothing is shown to somebody who is not signed in. */
export function Gate() {
    const session = useQuery(sessionQuery);
    if (!session.data) {
        return session.isError ? <ProblemNote error={session.error} /> : <Loading what="Opening" />;
    }
    return session.data.username ? <SignedIn /> : (
        <Suspense fallback={<Loading what="Opening" />}>
            <SignIn />
        </Suspense>
    );
}

/** Units and wording are known before the first number is shown. */
function SignedIn() {
    const vocabulary = useQuery(vocabularyQuery);
    const jobId = Number(useMatch('/jobs/:jobId/*')?.params.jobId);
    if (vocabulary.data) return <Outlet />;
    return (
        <>
            {Number.isFinite(jobId) && <Meanwhile jobId={jobId} />}
            {vocabulary.isError ? <ProblemNote error={vocabulary.error} /> : <Loading what="Opening" />}
        </>
    );
}

/** The job is asked for while the wording is on its way. */
function Meanwhile({ jobId }: { jobId: number }) {
    usePrefetchQuery(jobQuery(jobId));
    usePrefetchQuery(trialsQuery(jobId));
    return null;
}
