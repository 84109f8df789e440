import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { mono } from '../../parts/theme';
import { moment } from '../../parts/when';
import { issueToken, revokeToken, tokensQuery, type Token } from './api';

/** Tokens of one's programs: each shown once, listed, and taken back. */
export function Tokens() {
    const queryClient = useQueryClient();
    const tokens = useQuery(tokensQuery);
    const again = () => queryClient.invalidateQueries({ queryKey: tokensQuery.queryKey });
    const issue = useMutation({ mutationFn: (name: string) => issueToken(name), onSuccess: again });
    const revoke = useMutation({ mutationFn: revokeToken, onSuccess: again });
    if (!tokens.data) return tokens.error ? <ProblemNote error={tokens.error} /> : <Loading what="Fetching the tokens" />;
    return (
        <section aria-label="Tokens for programs">
            <Typography variant="h2">Tokens for programs</Typography>
            <Typography variant="body2" sx={{ mb: 1.5 }}>
                A program signs in by a token instead of a password. It holds as long as the list says, or until it is taken back here.
            </Typography>
            <NewToken onIssue={issue.mutate} isBusy={issue.isPending} />
            {issue.data && <Shown token={issue.data.token} />}
            {(issue.error ?? revoke.error) && <ProblemNote error={(issue.error ?? revoke.error) as Error} />}
            <Box component="ul" sx={{ listStyle: 'none', p: 0, mt: 2 }}>
                {tokens.data.map((token) => (
                    <KnownToken key={token.id} token={token} onRevoke={() => revoke.mutate(token.id)} />
                ))}
            </Box>
            {tokens.data.length === 0 && <Typography variant="body2">There are none.</Typography>}
        </section>
    );
}

function NewToken({ onIssue, isBusy }: { onIssue: (name: string) => void; isBusy: boolean }) {
    const [name, setName] = useState('');
    return (
        <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap' }}>
            <TextField label="What it is for" value={name} onChange={(event) => setName(event.target.value)} sx={{ flex: '1 1 220px' }} />
            <Button variant="contained" disabled={!name.trim() || isBusy} onClick={() => onIssue(name)}>
                Make a token
            </Button>
        </Stack>
    );
}

function Shown({ token }: { token: string }) {
    return (
        <Alert severity="info" variant="outlined" sx={{ mt: 1.5, color: 'text.primary' }}>
            It is shown this once: <Box component="code" sx={{ fontFamily: mono, overflowWrap: 'anywhere' }}>{token}</Box>
        </Alert>
    );
}

function KnownToken({ token, onRevoke }: { token: Token; onRevoke: () => void }) {
    return (
        <Box component="li" sx={{ display: 'flex', gap: 2, alignItems: 'center', borderBottom: 1, borderColor: 'divider', py: 0.75 }}>
            <Box sx={{ flex: 1 }}>
                <Typography sx={{ fontWeight: 650 }}>{token.name}</Typography>
                <Typography variant="body2">
                    made {moment(token.created_at)}
                    {token.expires_at && `, holds until ${moment(token.expires_at)}`}
                </Typography>
            </Box>
            <Button size="small" onClick={onRevoke} aria-label={`Take back ${token.name}`}>
                Take back
            </Button>
        </Box>
    );
}
