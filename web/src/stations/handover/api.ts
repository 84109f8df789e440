/** Requests of this sheet as options objects: their keys are made here and nowhere else. */

import { queryOptions } from '@tanstack/react-query';

import { client, unwrap, type Schemas } from '../../api/client';

export type PaperKey = Schemas['PdfIn']['paper'];

export const handoverQuery = (jobId: number, paper: PaperKey) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'handover', paper],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/handover', { params: { path: { job_id: jobId }, query: { paper } } })),
        // It is written from everything else: looked at anew whenever it is opened.
        staleTime: 0,
    });

export const closeCheck = (jobId: number, key: string, note: string) =>
    unwrap(client.POST('/api/jobs/{job_id}/handover/closing/{key}', { params: { path: { job_id: jobId, key } }, body: { note } }));

export const makePdf = (jobId: number, body: Schemas['PdfIn']) => unwrap(client.POST('/api/jobs/{job_id}/handover/pdf', { params: { path: { job_id: jobId } }, body }));

export const reopenJob = (jobId: number, body: Schemas['ReopenIn']) => unwrap(client.POST('/api/jobs/{job_id}/handover/reopen', { params: { path: { job_id: jobId } }, body }));

export const makeArchive = (jobId: number) => unwrap(client.POST('/api/jobs/{job_id}/archive', { params: { path: { job_id: jobId } } }));
