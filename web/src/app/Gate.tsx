import { useQuery } from '@tanstack/react-query';
import { Outlet } from 'react-router';

import { sessionQuery } from '../api/queries';
import { Loading } from '../parts/Loading';
import { ProblemNote } from '../parts/ProblemNote';
import { SignIn } from './SignIn';

/** Nothing is shown to somebody who is not signed in. */
export function Gate() {
    const session = useQuery(sessionQuery);
    if (!session.data) {
        return session.isError ? <ProblemNote error={session.error} /> : <Loading what="Opening" />;
    }
    return session.data.username ? <Outlet /> : <SignIn />;
}
