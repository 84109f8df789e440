import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { Link, useNavigate, useParams } from 'react-router';

import { client, unwrap } from '../api/client';
import { sessionQuery } from '../api/vocabulary';
import { Loading } from '../parts/Loading';
import { ProblemNote } from '../parts/ProblemNote';

/** Where a guest link leads: in by its secret, and on to the job. */
export function GuestDoor() {
    const { secret = '' } = useParams();
    const navigate = useNavigate();
    const queryClient = useQueryClient();
    const asked = useRef(false);
    const come = useMutation({
        mutationFn: async () => {
            await queryClient.fetchQuery(sessionQuery);
            return unwrap(client.POST('/api/session/guest', { body: { secret } }));
        },
        onSuccess: async ({ job }) => {
            await queryClient.resetQueries();
            await navigate(`/jobs/${job}`, { replace: true });
        },
    });
    useEffect(() => {
        if (!asked.current) come.mutate();
        asked.current = true;
    }, [come]);
    return (
        <Box component="main" sx={{ p: 3 }}>
            <Typography variant="h1" gutterBottom>
                A look at a job
            </Typography>
            {come.error ? <ProblemNote error={come.error} /> : <Loading what="Opening the job" />}
            {come.error && <Link to="/">Sign in instead</Link>}
        </Box>
    );
}
