import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import { client, unwrap } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ReasonBox } from '../../parts/ReasonBox';

/** Off the board with a reason, and back; nothing of a job is ever deleted. */
export function PutAside() {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const put = useMutation({
        mutationFn: (body: { aside: boolean; reason: string }) =>
            unwrap(client.POST('/api/jobs/{job_id}/aside', { params: { path: { job_id: job.id } }, body })),
        onSuccess: () => refresh(queryClient, job.id),
    });
    if (job.aside) {
        return (
            <Typography variant="body2" component="div">
                This job is put aside.{' '}
                <Button size="small" onClick={() => put.mutate({ aside: false, reason: '' })}>
                    Bring it back to the board
                </Button>
            </Typography>
        );
    }
    return (
        <ReasonBox
            title="Put this job aside"
            label="Why is it put aside?"
            button="Put aside"
            pending={put.isPending}
            error={put.error}
            onWrite={(reason) => put.mutate({ aside: true, reason })}
        />
    );
}
