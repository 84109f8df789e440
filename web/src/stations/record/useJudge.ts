import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';

/** Have a start judged and go to its trial. */
export function useJudge() {
    const { job } = useJob();
    const navigate = useNavigate();
    const queryClient = useQueryClient();
    return useMutation({
        mutationFn: (trial: Partial<Schemas['TrialIn']>) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/trials', {
                    params: { path: { job_id: job.id } },
                    body: { kind: 'start', start_number: 1, note: '', attempt: 1, black_smoke: false, fuel_smell: false, ...trial },
                }),
            ),
        onSuccess: async (trial) => {
            await refresh(queryClient, job.id, 'trials', 'logs');
            await navigate(`/jobs/${job.id}/trials/${trial.id}`);
        },
    });
}
