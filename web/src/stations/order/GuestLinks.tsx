import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { fieldProblem } from '../../parts/fieldProblem';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { mono } from '../../parts/theme';

type Link = Schemas['GuestLinkOut'];
type NewLink = Schemas['GuestLinkIn'];

const linksQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['guests', jobId],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/guests', { params: { path: { job_id: jobId } } })),
    });

/** Links by which somebody outside may look at this job, and change nothing. */
export function GuestLinks() {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const links = useQuery(linksQuery(job.id));
    const again = () => queryClient.invalidateQueries({ queryKey: linksQuery(job.id).queryKey });
    const make = useMutation({
        mutationFn: (body: NewLink) => unwrap(client.POST('/api/jobs/{job_id}/guests', { params: { path: { job_id: job.id } }, body })),
        onSuccess: again,
    });
    const back = useMutation({
        mutationFn: (id: number) => unwrap(client.DELETE('/api/jobs/{job_id}/guests/{link_id}', { params: { path: { job_id: job.id, link_id: id } } })),
        onSuccess: again,
    });
    return (
        <Box component="section" aria-label="Guests" sx={{ mt: 3 }}>
            <Typography variant="h3" gutterBottom>
                Let somebody look
            </Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                A link shows this job to whoever has it, until a day. Nothing can be changed by it.
            </Typography>
            <NewLinkForm onMake={make.mutate} isBusy={make.isPending} error={make.error} />
            {make.data && <Shown path={make.data.path} />}
            {back.error && <ProblemNote error={back.error} />}
            <Box component="ul" sx={{ listStyle: 'none', p: 0, m: 0 }}>
                {links.data?.map((link) => <Known key={link.id} link={link} onBack={() => back.mutate(link.id)} />)}
            </Box>
        </Box>
    );
}

function NewLinkForm({ onMake, isBusy, error }: { onMake: (body: NewLink) => void; isBusy: boolean; error: Error | null }) {
    const [name, setName] = useState('');
    const [end, setEnd] = useState('');
    const problem = (field: string) => fieldProblem([error], field);
    return (
        <Stack
            component="form"
            sx={{ gap: 1 }}
            onSubmit={(event) => {
                event.preventDefault();
                onMake({ name, ends_on: end });
            }}
        >
            <TextField size="small" label="For whom" value={name} onChange={(event) => setName(event.target.value)} error={Boolean(problem('name'))} helperText={problem('name')} />
            <TextField
                size="small"
                label="Last day"
                type="date"
                value={end}
                onChange={(event) => setEnd(event.target.value)}
                slotProps={{ inputLabel: { shrink: true } }}
                error={Boolean(problem('ends_on'))}
                helperText={problem('ends_on')}
            />
            <Button type="submit" disabled={!name.trim() || !end || isBusy}>
                Make a link
            </Button>
        </Stack>
    );
}

function Shown({ path }: { path: string }) {
    return (
        <Alert severity="info" variant="outlined" sx={{ my: 1, color: 'text.primary' }}>
            It is shown this once: <Box component="code" sx={{ fontFamily: mono, overflowWrap: 'anywhere' }}>{window.location.origin + path}</Box>
        </Alert>
    );
}

function Known({ link, onBack }: { link: Link; onBack: () => void }) {
    return (
        <Box component="li" sx={{ display: 'flex', gap: 1, alignItems: 'center', borderBottom: 1, borderColor: 'divider', py: 0.5 }}>
            <Typography variant="body2" sx={{ flex: 1 }}>
                {link.name}, {link.holds ? `until ${link.ends_on}` : 'holds no more'}
            </Typography>
            {link.holds && (
                <Button size="small" onClick={onBack} aria-label={`Take back the link of ${link.name}`}>
                    Take back
                </Button>
            )}
        </Box>
    );
}
