import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Paper from '@mui/material/Paper';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';

import { ApiProblem, client, unwrap } from '../api/client';
import { sessionQuery } from '../api/vocabulary';
import { ProblemNote } from '../parts/ProblemNote';

/** Sign in, or make a user with a workshop of their own. */
export function SignIn() {
    const isOpen = useQuery(sessionQuery).data?.registration ?? false;
    const queryClient = useQueryClient();
    const [isNew, setNew] = useState(false);
    const [username, setUsername] = useState('');
    const [password, setPassword] = useState('');
    const [workshop, setWorkshop] = useState('');
    const enter = useMutation({
        mutationFn: () =>
            isNew
                ? unwrap(client.POST('/api/users', { body: { username, password, workshop } }))
                : unwrap(client.POST('/api/session', { body: { username, password } })),
        onSuccess: () => queryClient.invalidateQueries(),
    });
    const submit = (event: FormEvent) => {
        event.preventDefault();
        enter.mutate();
    };
    const fieldError = (name: string) =>
        enter.error instanceof ApiProblem ? enter.error.field(name) : undefined;
    return (
        <Box component="main" sx={{ display: 'grid', placeItems: 'center', minHeight: '100%', p: 2 }}>
            <Paper
                component="form"
                onSubmit={submit}
                sx={{ p: 4, width: '100%', maxWidth: 420, border: 1, borderColor: 'divider' }}
            >
                <Stack spacing={2}>
                    <Typography variant="h1">{isNew ? 'Set up a workshop' : 'Sign in to Inbetrieb'}</Typography>
                    <TextField
                        label="Name"
                        autoComplete="username"
                        value={username}
                        onChange={(event) => setUsername(event.target.value)}
                        error={Boolean(fieldError('username'))}
                        helperText={fieldError('username')}
                        required
                    />
                    <TextField
                        label="Password"
                        type="password"
                        autoComplete={isNew ? 'new-password' : 'current-password'}
                        value={password}
                        onChange={(event) => setPassword(event.target.value)}
                        error={Boolean(fieldError('password'))}
                        helperText={fieldError('password')}
                        required
                    />
                    {isNew && (
                        <TextField
                            label="Name of the workshop"
                            value={workshop}
                            onChange={(event) => setWorkshop(event.target.value)}
                        />
                    )}
                    {enter.error && <ProblemNote error={enter.error} />}
                    <Button type="submit" variant="contained" size="large" disabled={enter.isPending}>
                        {isNew ? 'Set up and sign in' : 'Sign in'}
                    </Button>
                    {isOpen ? (
                        <Button onClick={() => setNew(!isNew)}>{isNew ? 'I have a name already' : 'I am new here'}</Button>
                    ) : (
                        <Typography variant="body2">Who is new here asks whoever runs this server.</Typography>
                    )}
                </Stack>
            </Paper>
        </Box>
    );
}
