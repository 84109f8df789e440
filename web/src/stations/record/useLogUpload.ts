import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';

import { client, unwrap, type Schemas } from '../../api/client';
import { multipart } from '../../api/multipart';
import { refresh } from '../../api/refresh';
import { followed, type Task } from '../../api/tasks';
import { useJob } from '../../parts/jobContext';
import { circumstancesOf, NO_CIRCUMSTANCES } from './circumstances';
import { uploadFields, type Mapping, type Preview } from './preview';

/** A file as it is read and re-read until every column is decided. */
export function useReading() {
    const { job } = useJob();
    const path = { job_id: job.id };
    const abort = useRef<AbortController | null>(null);
    const [mapping, setMapping] = useState<Mapping>({});
    const [file, setFile] = useState<File | null>(null);
    const read = useMutation({
        mutationFn: (fields: Record<string, string | File>) => {
            abort.current = new AbortController();
            return unwrap(
                client.POST('/api/jobs/{job_id}/logs/preview', {
                    params: { path },
                    signal: abort.current.signal,
                    ...multipart(fields),
                }),
            );
        },
    });
    const take = (brought: File | undefined) => {
        if (!brought) return;
        setFile(brought);
        setMapping({});
        read.mutate({ file: brought });
    };
    /** The same file once more, with what names the signals of a bus log. */
    const nameSignals = (dbc: File | undefined) => {
        if (!file || !dbc) return;
        setMapping({});
        read.mutate({ file, dbc });
    };
    const decide = (changes: Mapping) => {
        if (!read.data) return;
        const changed = { ...mapping, ...changes };
        setMapping(changed);
        read.mutate(uploadFields(read.data.upload_id, changed));
    };
    return { read, mapping, name: file?.name ?? '', take, nameSignals, decide, cancel: () => abort.current?.abort() };
}

/** Whether a preview says all that is needed to read the file. */
export function isReadable(preview: Preview | undefined): preview is Preview {
    return preview !== undefined && preview.missing.length === 0 && preview.questions.length === 0;
}

/** The starts of a file that is not saved yet, and which of them become trials. */
export function useStarts(preview: Preview | undefined, mapping: Mapping, coolant: number | null, ready: boolean) {
    const { job } = useJob();
    const [picked, setPicked] = useState<number[] | null>(null);
    const starts = useQuery({
        queryKey: ['jobs', job.id, 'starts', preview?.upload_id, mapping, coolant],
        enabled: ready,
        queryFn: ({ signal }) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/trials/starts', {
                    params: { path: { job_id: job.id } },
                    signal,
                    ...multipart({
                        ...uploadFields(preview?.upload_id ?? '', mapping),
                        ...(coolant === null ? {} : { coolant_c: String(coolant) }),
                    }),
                }),
            ),
    });
    const judged = (starts.data ?? []).filter((start) => start.verdict !== null).map((start) => start.number);
    const chosen = (picked ?? judged).filter((number) => judged.includes(number));
    return { starts, chosen, choose: setPicked };
}

/** Save the log and have the chosen starts judged; one leads to its trial, several to the list. */
export function useSaveLog(name: string, mapping: Mapping) {
    const { job } = useJob();
    const navigate = useNavigate();
    const queryClient = useQueryClient();
    const [circumstances, setCircumstances] = useState(NO_CIRCUMSTANCES);
    const [progress, setProgress] = useState<Task | null>(null);
    const abort = useRef<AbortController | null>(null);
    const path = { job_id: job.id };
    const save = useMutation({
        mutationFn: async ({ preview, chosen }: { preview: Preview; chosen: number[] }) => {
            abort.current = new AbortController();
            const decided = Object.keys(mapping).length > 0 ? mapping : null;
            const reading = await unwrap(
                client.POST('/api/jobs/{job_id}/logs/read', {
                    params: { path },
                    body: { upload_id: preview.upload_id, name, mapping: decided },
                }),
            );
            const saved = await followed<{ log: number }>(reading, setProgress, abort.current.signal);
            const body: Schemas['TrialsIn'] = {
                log_id: saved.log,
                start_numbers: chosen,
                note: '',
                ...circumstancesOf(circumstances, job.units),
            };
            return unwrap(client.POST('/api/jobs/{job_id}/trials/of-log', { params: { path }, body }));
        },
        onSuccess: async (trials) => {
            await refresh(queryClient, job.id, 'trials', 'logs');
            await navigate(`/jobs/${job.id}/trials/${trials.at(-1)?.id}`);
        },
        onSettled: () => setProgress(null),
    });
    return { save, progress, cancel: () => abort.current?.abort(), circumstances, setCircumstances };
}
