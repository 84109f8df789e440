import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { Mark } from '../../parts/Mark';
import { ProblemNote } from '../../parts/ProblemNote';
import { reopenJob } from './api';

interface Props {
    parts: Record<string, string>;
    reopening: Schemas['Reopening'] | null;
}

/** The car is back with other parts: what of its record stands, what fell, and what would prove it again. */
export function ComeBack({ parts, reopening }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [isOpen, setOpen] = useState(false);
    const [chosen, setChosen] = useState<string[]>([]);
    const [reason, setReason] = useState('');
    const reopen = useMutation({
        mutationFn: () => reopenJob(job.id, { parts: chosen, reason }),
        onSuccess: async () => {
            setOpen(false);
            setChosen([]);
            setReason('');
            await refresh(queryClient, job.id, 'handover');
        },
    });
    return (
        <Box component="section" aria-label="Back with other parts" sx={{ mt: 3 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Come back
            </Typography>
            {reopening && (
                <>
                    {reopening.fallen.map((one) => (
                        <Box key={one.stand} sx={{ borderTop: 1, borderColor: 'divider', py: 0.75 }}>
                            <Typography sx={{ fontWeight: 650 }}>
                                <Mark state={one.again ? 'pass' : 'not_read'} word={false} /> {one.what}
                            </Typography>
                            <Typography variant="body2">{one.again ? 'Proven again since.' : `Fell with ${one.because}. ${one.proof}`}</Typography>
                        </Box>
                    ))}
                    <Typography variant="body2" sx={{ my: 1 }}>
                        Kept: {reopening.kept.join(', ') || 'nothing yet'}.
                    </Typography>
                </>
            )}
            {isOpen ? (
                <>
                    {Object.entries(parts).map(([key, label]) => (
                        <FormControlLabel key={key} sx={{ display: 'flex' }} control={<Checkbox checked={chosen.includes(key)} onChange={() => setChosen(chosen.includes(key) ? chosen.filter((one) => one !== key) : [...chosen, key])} />} label={label} />
                    ))}
                    <TextField label="Why it came back" value={reason} onChange={(event) => setReason(event.target.value)} fullWidth multiline sx={{ my: 1 }} />
                    <Button variant="contained" disabled={!chosen.length || !reason.trim() || reopen.isPending} onClick={() => reopen.mutate()}>
                        Continue the job
                    </Button>
                    {reopen.error && <ProblemNote error={reopen.error} />}
                </>
            ) : (
                <Button variant="outlined" onClick={() => setOpen(true)}>
                    It is back with other parts …
                </Button>
            )}
        </Box>
    );
}
