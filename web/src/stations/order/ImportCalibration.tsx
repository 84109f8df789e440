import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';

import { client, unwrap } from '../../api/client';
import { multipart } from '../../api/multipart';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';

/** Bring a calibration file in as a new revision; the one before it stays in the history. */
export function ImportCalibration() {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const bring = useMutation({
        mutationFn: (file: File) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/import', {
                    params: { path: { job_id: job.id } },
                    ...multipart({ file, note: `Imported from ${file.name}.` }),
                }),
            ),
        onSuccess: () => refresh(queryClient, job.id, 'tables', 'intake'),
    });
    return (
        <Box sx={{ mt: 1 }}>
            <Button component="label" variant="outlined" size="small" disabled={bring.isPending}>
                Bring a calibration file
                <input
                    type="file"
                    accept=".json,.csv"
                    hidden
                    aria-label="Calibration file"
                    onChange={(event) => {
                        const file = event.target.files?.[0];
                        if (file) bring.mutate(file);
                        event.target.value = '';
                    }}
                />
            </Button>
            {bring.data && (
                <Typography variant="body2" sx={{ mt: 0.5 }} role="status">
                    It is revision {bring.data.revision} now. <Link to="ladder">See the ladder</Link>
                </Typography>
            )}
            {bring.error && <ProblemNote error={bring.error} />}
        </Box>
    );
}
