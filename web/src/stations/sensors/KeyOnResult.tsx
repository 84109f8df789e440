import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { client, unwrap, type KeyOnCheck } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';
import { Mark } from '../../parts/Mark';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import { useShown } from '../../parts/useShown';

const DECIMALS: Record<string, number> = { V: 2, lambda: 3, kPa: 1 };

/** On a phone every sensor is a small block: name and verdict, then reading, then why. */
const STACKED = {
    '@media (max-width: 599px)': {
        display: 'block',
        '& thead': { display: 'none' },
        '& tbody': { display: 'block' },
        '& tr': {
            display: 'grid',
            gridTemplateColumns: '1fr auto',
            columnGap: 1,
            py: 1,
            borderBottom: '1px solid var(--mui-palette-divider)',
        },
        '& tbody td': { border: 0, p: 0 },
        '& tbody td:nth-of-type(2)': { order: 3 },
        '& tbody td:nth-of-type(3)': { order: 4, '&::before': { content: '"expected "' } },
        '& tbody td:nth-of-type(5)': { order: 5, gridColumn: '1 / -1' },
    },
} as const;

/** The newest check: one sentence, then every sensor with its reason and what to look at. */
export function KeyOnResult({ check }: { check: KeyOnCheck }) {
    const { job } = useJob();
    const shown = useShown();
    const { result } = check;
    const worst = result.judgements.find(({ state }) => state === 'fail' || state === 'not_read');
    return (
        <Box sx={{ mb: 3 }}>
            <Sentences
                sentences={[result.sentence]}
                level={result.state === 'pass' ? 'good' : result.state === 'suspicious' ? 'attention' : 'stop'}
            />
            {worst && !check.override_reason && (
                <Button component={Link} to={`/jobs/${job.id}/sensors/entered/${worst.function}`} variant="outlined" sx={{ mb: 1.5 }}>
                    Open {worst.title.toLowerCase()}
                </Button>
            )}
            {check.override_reason && (
                <Typography sx={{ mb: 1.5 }}>
                    Overridden by {check.override_by}: {check.override_reason}
                </Typography>
            )}
            <Box component="table" aria-label="Sensors at key-on" sx={{ borderCollapse: 'collapse', width: '100%', '& td, & th': { textAlign: 'left', verticalAlign: 'top', py: 0.75, pr: 1.5, borderBottom: 1, borderColor: 'divider' }, ...STACKED }}>
                <thead>
                    <tr>
                        {['Sensor', 'Reads', 'Expected', 'Verdict', 'Why, and what to look at'].map((head) => (
                            <Box component="th" key={head} sx={{ fontSize: '0.86rem', color: 'text.secondary' }}>
                                {head}
                            </Box>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {result.judgements.map((entry) => {
                        const number = (value: number | null | undefined) =>
                            typeof value === 'number' ? shown(value, entry.unit, DECIMALS[entry.unit] ?? 1) : '–';
                        return (
                            <tr key={entry.function}>
                                <td>
                                    <Link to={`/jobs/${job.id}/sensors/entered/${entry.function}`}>{entry.title}</Link>
                                </td>
                                <Box component="td" sx={{ fontFamily: mono, whiteSpace: 'nowrap' }}>
                                    {number(entry.reading)}
                                    {typeof entry.opened === 'number' && ` … ${number(entry.opened)}`}
                                </Box>
                                <Box component="td" sx={{ fontFamily: mono, whiteSpace: 'nowrap' }}>
                                    {number(entry.expected)}
                                </Box>
                                <td>
                                    <Mark state={entry.state} />
                                </td>
                                <td>
                                    <Typography variant="body2">{inUnits(entry.sentence)}</Typography>
                                    {entry.look_at.length > 0 && (
                                        <Typography variant="body2" sx={{ color: 'text.secondary' }}>
                                            Look at: {entry.look_at.join('; ')}.
                                        </Typography>
                                    )}
                                </td>
                            </tr>
                        );
                    })}
                </tbody>
            </Box>
            {result.state === 'fail' && !check.override_reason && <Override number={check.number} />}
        </Box>
    );
}

function Override({ number }: { number: number }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [isOpen, setOpen] = useState(false);
    const [reason, setReason] = useState('');
    const send = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST('/api/jobs/{job_id}/key-on/{number}/override', {
                    params: { path: { job_id: job.id, number } },
                    body: { reason },
                }),
            ),
        onSuccess: () => refresh(queryClient, job.id, 'sensors'),
    });
    if (!isOpen) {
        return (
            <Button onClick={() => setOpen(true)} sx={{ mt: 1 }}>
                Go on all the same …
            </Button>
        );
    }
    return (
        <Stack spacing={1} sx={{ mt: 1.5, maxWidth: 620 }}>
            <TextField
                label="Why it is safe to go on; this stays in the record"
                value={reason}
                onChange={(event) => setReason(event.target.value)}
                multiline
                autoFocus
            />
            {send.error && <ProblemNote error={send.error} />}
            <Stack direction="row" spacing={1}>
                <Button variant="outlined" color="warning" disabled={!reason.trim() || send.isPending} onClick={() => send.mutate()}>
                    Open the gate with this reason
                </Button>
                <Button onClick={() => setOpen(false)}>Cancel</Button>
            </Stack>
        </Stack>
    );
}
