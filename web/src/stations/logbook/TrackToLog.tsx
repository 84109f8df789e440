import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Log } from '../../api/client';
import { multipart } from '../../api/multipart';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';

/** Speed and altitude of a satellite receiver laid on a log, where both move alike or where somebody says. */
export function TrackToLog({ log }: { log: Log }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [file, setFile] = useState<File | null>(null);
    const [begins, setBegins] = useState<number | null>(null);
    const lay = useMutation({
        mutationFn: (sent: { file: File; begins: number | null }) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/logs/{log_id}/track', {
                    params: { path: { job_id: job.id, log_id: log.id } },
                    ...multipart({ file: sent.file, begins_at_s: sent.begins === null ? '' : String(sent.begins) }),
                }),
            ),
        onSuccess: () => {
            setFile(null);
            setBegins(null);
            return refresh(queryClient, job.id, 'logs');
        },
    });
    return (
        <>
            <Button component="label" disabled={lay.isPending}>
                {lay.isPending ? 'Laying it on' : 'Add a track'}
                <input
                    type="file"
                    hidden
                    accept=".nmea,.txt,.log,.gpx"
                    aria-label={`Track for ${log.name}`}
                    onChange={(event) => {
                        const chosen = event.target.files?.[0] ?? null;
                        event.target.value = '';
                        setFile(chosen);
                        if (chosen) lay.mutate({ file: chosen, begins: null });
                    }}
                />
            </Button>
            {lay.error && <ProblemNote error={lay.error} />}
            {lay.error && file && (
                <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', my: 1 }}>
                    <Box sx={{ width: 190 }}>
                        <QuantityField label="The track begins at" unit="s" value={begins} onChange={setBegins} help="of the log" />
                    </Box>
                    <Button variant="outlined" disabled={begins === null || lay.isPending} onClick={() => lay.mutate({ file, begins })}>
                        Lay it there
                    </Button>
                </Box>
            )}
            {lay.data && !lay.error && (
                <Typography variant="body2" role="status">
                    {lay.data.lies.sentence} Kept as “{lay.data.log.name}”.
                </Typography>
            )}
        </>
    );
}
