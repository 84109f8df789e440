import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useColorScheme } from '@mui/material/styles';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import { Link } from 'react-router';

import { client, unwrap } from '../api/client';
import { sessionQuery } from '../api/vocabulary';
import { useKeys } from '../parts/shortcuts';

const ShortcutsDialog = lazy(async () => ({ default: (await import('./ShortcutsDialog')).ShortcutsDialog }));

/** The head of every sheet: whose work this is, and how it is shown. */
export function TopBar({ title, children }: { title?: string; children?: ReactNode }) {
    const { data: session } = useQuery(sessionQuery);
    const { mode, setMode } = useColorScheme();
    const [help, setHelp] = useState(false);
    const queryClient = useQueryClient();
    const leave = useMutation({
        mutationFn: () => unwrap(client.DELETE('/api/session')),
        onSuccess: () => queryClient.resetQueries(),
    });
    useKeys({ '?': () => setHelp(true) });
    const dim = mode === 'dark';
    return (
        <Box
            component="header"
            className="no-print"
            sx={{
                display: 'flex',
                alignItems: 'center',
                flexWrap: 'wrap',
                columnGap: 2,
                px: 2,
                minHeight: 48,
                borderBottom: 1,
                borderColor: 'divider',
                bgcolor: 'background.paper',
            }}
        >
            <Typography
                component={Link}
                to="/"
                sx={{ fontWeight: 700, color: 'primary.main', textDecoration: 'none', py: 1 }}
            >
                Inbetrieb
            </Typography>
            {title && (
                <Typography component="p" sx={{ fontWeight: 600, flexShrink: 1, minWidth: 0, maxWidth: { xs: 250, sm: 'none' } }} noWrap>
                    {title}
                </Typography>
            )}
            <Box sx={{ flex: 1 }} />
            {children}
            <Button color="inherit" size="small" onClick={() => setMode(dim ? 'light' : 'dark')}>
                {dim ? 'Paper' : 'Dim'}
            </Button>
            <Button
                color="inherit"
                size="small"
                onClick={() => setHelp(true)}
                sx={{ display: { xs: 'none', sm: 'inline-flex' } }}
            >
                Keys ?
            </Button>
            <Button component={Link} to="/guide" color="inherit" size="small" sx={{ display: { xs: 'none', sm: 'inline-flex' } }}>
                Guide
            </Button>
            <Button component={Link} to="/account" color="inherit" size="small" sx={{ display: { xs: 'none', sm: 'inline-flex' } }}>
                {session?.username ?? ''}
            </Button>
            <Button color="inherit" size="small" onClick={() => leave.mutate()}>
                Sign out
            </Button>
            {help && (
                <Suspense>
                    <ShortcutsDialog open onClose={() => setHelp(false)} />
                </Suspense>
            )}
        </Box>
    );
}
