import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { fieldProblem } from '../../parts/fieldProblem';
import { ProblemNote } from '../../parts/ProblemNote';
import { changePassword } from './api';

/** Another password; whoever is signed in elsewhere by the old one no longer is. */
export function Password() {
    const [old, setOld] = useState('');
    const [next, setNext] = useState('');
    const change = useMutation({
        mutationFn: () => changePassword({ old, new: next }),
        onSuccess: () => {
            setOld('');
            setNext('');
        },
    });
    return (
        <Stack
            component="form"
            spacing={1.5}
            sx={{ maxWidth: 380, mb: 4 }}
            onSubmit={(event) => {
                event.preventDefault();
                change.mutate();
            }}
        >
            <Typography variant="h2">Password</Typography>
            <Secret label="Password now" value={old} onChange={setOld} error={fieldProblem([change.error], 'old')} complete="current-password" />
            <Secret label="New password" value={next} onChange={setNext} error={fieldProblem([change.error], 'new')} complete="new-password" />
            {change.error && <ProblemNote error={change.error} />}
            <Button type="submit" variant="contained" disabled={!old || !next || change.isPending}>
                Change it
            </Button>
            {change.isSuccess && <Typography role="status">It is changed. Sign in anew elsewhere.</Typography>}
        </Stack>
    );
}

interface SecretProps {
    label: string;
    value: string;
    onChange: (value: string) => void;
    error: string | undefined;
    complete: string;
}

function Secret({ label, value, onChange, error, complete }: SecretProps) {
    return (
        <TextField
            label={label}
            type="password"
            autoComplete={complete}
            value={value}
            onChange={(event) => onChange(event.target.value)}
            error={Boolean(error)}
            helperText={error}
        />
    );
}
