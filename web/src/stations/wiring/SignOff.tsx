import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { day } from '../../parts/when';
import type { WiringWork } from './useWiring';
import { inUnits } from '../../units/said';

/** Signing the list off; what differs afterwards is listed as a change. */
export function SignOff({ work, done }: { work: WiringWork; done: number }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const { signed, number, plan } = work.wiring;
    const sign = useMutation({
        mutationFn: () =>
            unwrap(client.POST('/api/jobs/{job_id}/wiring/sign-off', { params: { path: { job_id: job.id } }, body: { number, note: '' } })),
        onSuccess: () => refresh(queryClient, job.id, 'wiring'),
    });
    const total = plan.lines.length;
    const isSigned = signed !== null && work.changes.length === 0;
    return (
        <Box sx={{ mb: 1.5 }}>
            <Stack direction="row" sx={{ gap: 2, alignItems: 'center', flexWrap: 'wrap' }}>
                <Typography>
                    {done} of {total} wires checked.{' '}
                    {signed === null
                        ? 'Not signed off.'
                        : `Signed off by ${signed.created_by}, ${day(signed.created_at)}, as plan ${signed.plan}.`}
                </Typography>
                {!isSigned && (
                    <Button variant="outlined" disabled={number === 0 || work.isDirty || sign.isPending} onClick={() => sign.mutate()}>
                        {signed === null ? 'Sign the list off' : 'Sign again'}
                    </Button>
                )}
                {(number === 0 || work.isDirty) && <Typography variant="body2">Save the plan before it is signed.</Typography>}
            </Stack>
            {sign.error && <ProblemNote error={sign.error} />}
            {work.changes.length > 0 && (
                <Box component="section" aria-label="Changed after the sign-off" sx={{ borderLeft: 4, borderColor: 'warning.main', pl: 1.5, mt: 1 }}>
                    <Typography sx={{ fontWeight: 650 }}>Changed after the sign-off</Typography>
                    {work.changes.slice(0, 8).map((change) => (
                        <Typography key={change.key} variant="body2">
                            {inUnits(change.sentence)}
                        </Typography>
                    ))}
                    {work.changes.length > 8 && <Typography variant="body2">And {work.changes.length - 8} more, marked in the list.</Typography>}
                </Box>
            )}
        </Box>
    );
}
