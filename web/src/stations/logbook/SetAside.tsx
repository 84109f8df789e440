import Button from '@mui/material/Button';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { ReasonBox } from '../../parts/ReasonBox';

/** Whether maps are corrected from a log: set aside with a reason, and back again. */
export function SetAside({ log }: { log: Schemas['LogOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const put = useMutation({
        mutationFn: (reason: string | null) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/logs/{log_id}/aside', {
                    params: { path: { job_id: job.id, log_id: log.id } },
                    body: { aside: reason !== null, reason: reason ?? '' },
                }),
            ),
        onSuccess: () => refresh(queryClient, job.id, 'logs'),
    });
    if (log.set_aside === null) return <ReasonBox title="Set aside" label="Why it does not count" button="Set it aside" pending={put.isPending} error={put.error} onWrite={put.mutate} />;
    return (
        <>
            <Button disabled={put.isPending} onClick={() => put.mutate(null)}>
                Let it count again
            </Button>
            {put.error && <ProblemNote error={put.error} />}
        </>
    );
}
