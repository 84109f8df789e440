import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';

import { client, unwrap } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../jobContext';
import { useComputed } from '../useComputed';
import type { Finding } from './Checks';
import { keyOf } from '../draft/grid';

type Values = number | number[] | number[][];

/** What stands out in a table as it is now, which cells it is about, and accepting it with a reason. */
export function useChecks(revision: number, table: string, values: Values) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const path = { params: { path: { job_id: job.id } } };
    const tables = { [table]: values };
    const key = `check-${job.id}-${revision}`;
    const check = useComputed(key, { revision, tables }, (body) => unwrap(client.POST('/api/jobs/{job_id}/table-bench/check', { ...path, body })));
    const accept = useMutation({
        mutationFn: ({ finding, reason }: { finding: Finding; reason: string }) =>
            unwrap(client.POST('/api/jobs/{job_id}/table-bench/accept', { ...path, body: { revision, tables, identifier: finding.identifier, reason } })),
        onSuccess: async () => {
            await queryClient.invalidateQueries({ queryKey: [key] });
            await refresh(queryClient, job.id, 'tables');
        },
    });
    const findings = useMemo(() => (check.data ?? []).filter((finding) => finding.table === table), [check.data, table]);
    const flagged = useMemo(() => {
        const result = new Map<string, Finding['severity']>();
        // The gravest comes first in the list and stays where several are about one cell.
        for (const finding of [...findings].reverse()) {
            if (finding.accepted) continue;
            for (const index of finding.cells) result.set(keyOf(index[0] ?? 0, index[1] ?? 0), finding.severity);
        }
        return result;
    }, [findings]);
    return { findings, flagged, accept };
}
