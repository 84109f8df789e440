import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';

const WORDS: Record<keyof Schemas['Setup'], string> = {
    fresh: 'Built anew, never run',
    flat_tappets: 'Flat tappets: the cam is run in',
    plugs_out: 'Plugs can be taken out',
    oil_sender: 'Oil pressure can be read',
    coolant_filled: 'Coolant is filled',
    automatic: 'Automatic gearbox',
};

/** How the engine stands there: the steps follow from it. */
export function SetupForm({ setup }: { setup: Schemas['Setup'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const save = useMutation({
        mutationFn: (next: Schemas['Setup']) => unwrap(client.POST('/api/jobs/{job_id}/first-start/setup', { params: { path: { job_id: job.id } }, body: { setup: next } })),
        onSuccess: () => refresh(queryClient, job.id, 'first-start'),
    });
    return (
        <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, mt: 3 }}>
            <Typography component="legend" variant="h3">
                The steps follow from this
            </Typography>
            <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', sm: 'repeat(2, minmax(0, 1fr))' } }}>
                {(Object.keys(WORDS) as (keyof Schemas['Setup'])[]).map((key) => (
                    <FormControlLabel key={key} control={<Checkbox checked={Boolean(setup[key])} disabled={save.isPending} onChange={(_, checked) => save.mutate({ ...setup, [key]: checked })} />} label={WORDS[key]} />
                ))}
            </Box>
            {save.error && <ProblemNote error={save.error} />}
        </Box>
    );
}
