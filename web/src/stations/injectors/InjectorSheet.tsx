import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Hardware, type Injectors, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { fieldProblem } from '../../parts/fieldProblem';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import { useComputed } from '../../parts/useComputed';
import { useKeep } from '../../parts/useKeep';
import { DeadTime } from './DeadTime';
import { injectorDraft, injectorsOf, type InjectorDraft } from './draft';
import { DutyChart } from './DutyChart';
import { FlowReport } from './FlowReport';
import { InjectorFields } from './InjectorFields';
import { InjectorMargin } from './InjectorMargin';
import { Modes } from './Modes';

interface Props {
    hardware: Hardware;
    saved: Schemas['InjectorSetOut'];
    /** Inferred injectors, waiting to be looked at and saved. */
    proposal: Injectors | null;
    onSaved: () => void;
}

/** The injectors fitted, and what follows from them while they are typed. */
export function InjectorSheet({ hardware, saved, proposal, onSaved }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [draft, setDraft] = useState<InjectorDraft>(() => injectorDraft(proposal ?? saved.injectors));
    const change = (part: Partial<InjectorDraft>) => setDraft((old) => ({ ...old, ...part }));
    const entry = injectorsOf(draft);
    const path = { params: { path: { job_id: job.id } } };
    const computed = useComputed(
        `injectors-${job.id}-${job.revision}`,
        entry && { injectors: { ...entry, name: entry.name || 'not named yet' } },
        (body) => unwrap(client.POST('/api/jobs/{job_id}/injectors/preview', { ...path, body })),
    );
    const save = useMutation({
        mutationFn: (injectors: Injectors) =>
            unwrap(client.POST('/api/jobs/{job_id}/injectors', { ...path, body: { injectors } })),
        onSuccess: async () => {
            onSaved();
            await refresh(queryClient, job.id, 'injectors', 'tables');
        },
    });
    const keep = useKeep();
    const problem = (name: string) => fieldProblem([save.error, keep.error, entry ? computed.error : null], name);
    const answer = entry && !computed.error ? computed.data : undefined;
    const isSaved = saved.number > 0 && JSON.stringify(entry) === JSON.stringify(injectorsOf(injectorDraft(saved.injectors)));
    const judgement = answer?.sheet.judgement;
    return (
        <WithMargin margin={<InjectorMargin answer={answer} />}>
            <Stack direction="row" sx={{ alignItems: 'center', flexWrap: 'wrap', gap: 1.5, mb: 1.5 }}>
                <Typography variant="h1" sx={{ flex: 1, minWidth: 160 }}>
                    Injectors
                </Typography>
                <Button variant="outlined" disabled={!entry || keep.isPending} onClick={() => entry && keep.mutate({ injectors: entry })}>
                    {keep.isSuccess ? 'Kept for the next job' : 'Keep for the next job'}
                </Button>
                <Button variant="contained" disabled={!entry || save.isPending || isSaved} onClick={() => entry && save.mutate(entry)}>
                    {isSaved ? 'Saved, in force' : 'Save and put in force'}
                </Button>
            </Stack>
            {proposal && (
                <Alert severity="info" variant="outlined" sx={{ mb: 2, color: 'text.primary' }}>
                    These are the injectors as the mixture tells them. Look at them, then save: dead time and prime
                    follow in a new revision.
                </Alert>
            )}
            {answer && <Sentences sentences={answer.sheet.sentences} level={answer.sheet.level} />}
            {judgement?.level === 'implausible' && (
                <TextField
                    label="If it is really so, say why; it stays in the record"
                    value={draft.override}
                    onChange={(event) => change({ override: event.target.value })}
                    error={Boolean(problem('override_reason'))}
                    fullWidth
                    sx={{ mb: 2 }}
                />
            )}
            <InjectorFields hardware={hardware} draft={draft} change={change} setDraft={setDraft} problem={problem} />
            {save.error && <ProblemNote error={save.error} />}
            {keep.error && <ProblemNote error={keep.error} />}
            {computed.error && entry && <ProblemNote error={computed.error} />}
            {answer && (
                <Box sx={{ display: 'grid', gap: 3, mt: 2, mb: 3, gridTemplateColumns: { xs: 'minmax(0, 1fr)', lg: 'minmax(0, 1fr) minmax(0, 1fr)' }, alignItems: 'start' }}>
                    <DutyChart sheet={answer.sheet} />
                    <Modes sheet={answer.sheet} chosen={draft.injections} onChoose={(injections) => change({ injections })} />
                </Box>
            )}
            <DeadTime draft={draft} change={change} sheet={answer?.sheet} problem={problem} />
            <FlowReport draft={draft} change={change} sheet={answer?.sheet} problem={problem} />
        </WithMargin>
    );
}
