import { useQuery } from '@tanstack/react-query';
import { Outlet } from 'react-router';

import { sessionQuery, vocabularyQuery } from '../api/vocabulary';
import { Loading } from '../parts/Loading';
import { ProblemNote } from '../parts/ProblemNote';
import { SignIn } from './SignIn';

/** Nothing is shown to somebody who is not signed in. */
export function Gate() {
    const session = useQuery(sessionQuery);
    if (!session.data) {
        return session.isError ? <ProblemNote error={session.error} /> : <Loading what="Opening" />;
    }
    return session.data.username ? <SignedIn /> : <SignIn />;
}

/** Units and wording are known before the first number is shown. */
function SignedIn() {
    const vocabulary = useQuery(vocabularyQuery);
    if (vocabulary.data) return <Outlet />;
    return vocabulary.isError ? <ProblemNote error={vocabulary.error} /> : <Loading what="Opening" />;
}
