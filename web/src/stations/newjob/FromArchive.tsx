import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';

import { client, unwrap } from '../../api/client';
import { multipart } from '../../api/multipart';
import { ProblemNote } from '../../parts/ProblemNote';

/** A job out of an archive: what it holds and what it would do is shown before anything is taken. */
export function FromArchive() {
    const navigate = useNavigate();
    const queryClient = useQueryClient();
    const [file, setFile] = useState<File | null>(null);
    const look = useMutation({ mutationFn: (chosen: File) => unwrap(client.POST('/api/archives/look', { ...multipart({ file: chosen }) })) });
    const take = useMutation({
        mutationFn: (chosen: File) => unwrap(client.POST('/api/archives', { ...multipart({ file: chosen }) })),
        onSuccess: async ({ job_id }) => {
            await queryClient.invalidateQueries();
            void navigate(`/jobs/${job_id}`);
        },
    });
    return (
        <Box component="section" aria-label="A job out of an archive" sx={{ borderTop: 1, borderColor: 'divider', pt: 2, mt: 3 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                A job out of an archive
            </Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                An archive holds one whole job: entries, revisions, logs, trials. It is made at the job&apos;s handover.
            </Typography>
            <Button variant="outlined" component="label" disabled={look.isPending || take.isPending}>
                Bring an archive
                <input
                    type="file"
                    hidden
                    accept=".zip"
                    aria-label="Archive of a job"
                    onChange={(event) => {
                        const chosen = event.target.files?.[0] ?? null;
                        setFile(chosen);
                        take.reset();
                        if (chosen) look.mutate(chosen);
                        event.target.value = '';
                    }}
                />
            </Button>
            {look.data && file && (
                <Box sx={{ mt: 1.5 }}>
                    <Typography sx={{ fontWeight: 650 }}>{look.data.sentence}</Typography>
                    <Typography variant="body2">
                        Made {look.data.made_at}. Written by {look.data.people.join(', ') || 'nobody'}. It holds{' '}
                        {Object.entries(look.data.counts)
                            .map(([what, count]) => `${count} × ${what}`)
                            .join(', ')}
                        . Not in it: {look.data.stays_behind.join('; ')}.
                    </Typography>
                    <Button variant="contained" sx={{ mt: 1, minHeight: 44 }} disabled={take.isPending} onClick={() => take.mutate(file)}>
                        {take.isPending ? 'Taking it …' : 'Take this job'}
                    </Button>
                </Box>
            )}
            {(look.error ?? take.error) && <ProblemNote error={(look.error ?? take.error) as Error} />}
        </Box>
    );
}
