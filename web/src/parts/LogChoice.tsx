import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';

import { client, unwrap } from '../api/client';
import { multipart } from '../api/multipart';
import { logsQuery } from '../api/logbook';
import { refresh } from '../api/refresh';
import { useJob } from './jobContext';
import { ProblemNote } from './ProblemNote';

interface Props {
    value: number | null;
    onChange: (logId: number) => void;
    hint: string;
}

/** A log of the job, or a file that becomes one. */
export function LogChoice({ value, onChange, hint }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const logs = useQuery(logsQuery(job.id));
    const upload = useMutation({
        mutationFn: (file: File) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/logs', {
                    params: { path: { job_id: job.id } },
                    ...multipart({ file, upload_id: '', mapping: '', name: file.name }),
                }),
            ),
        onSuccess: async (log) => {
            await refresh(queryClient, job.id, 'logs');
            onChange(log.id);
        },
    });
    return (
        <Stack spacing={1} sx={{ mb: 2, maxWidth: 640 }}>
            <Typography variant="body2">{hint}</Typography>
            <Stack direction={{ xs: 'column', sm: 'row' }} spacing={1}>
                <TextField
                    select
                    label="Log of this job"
                    value={value === null ? '' : String(value)}
                    onChange={(event) => onChange(Number(event.target.value))}
                    sx={{ flex: 1 }}
                >
                    {(logs.data ?? []).filter(({ set_aside }) => set_aside === null).map((log) => (
                        <MenuItem key={log.id} value={String(log.id)}>
                            {log.name}, {Math.round(log.duration_s)} s
                        </MenuItem>
                    ))}
                    {!logs.data?.length && <MenuItem disabled>no log yet</MenuItem>}
                </TextField>
                <Button variant="outlined" component="label" disabled={upload.isPending}>
                    {upload.isPending ? 'Reading …' : 'Bring a file'}
                    <input
                        type="file"
                        hidden
                        aria-label="Log file"
                        onChange={(event) => {
                            const file = event.target.files?.[0];
                            if (file) upload.mutate(file);
                            event.target.value = '';
                        }}
                    />
                </Button>
            </Stack>
            {upload.error && <ProblemNote error={upload.error} />}
        </Stack>
    );
}
