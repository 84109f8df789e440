import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import Paper from '@mui/material/Paper';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { memo, useRef, useState, type Dispatch, type RefObject } from 'react';

import { client, unwrap, type Calibration, type Schemas } from '../../api/client';
import { calibrationQuery } from '../../api/calibration';
import { refresh } from '../../api/refresh';
import { useJob } from '../jobContext';
import { useKeys } from '../shortcuts';
import { Choice } from '../Choice';
import { ProblemNote } from '../ProblemNote';
import { PROVENANCE_WORDS, type ProvenanceKind } from '../provenance';
import { changedCells, drafted, rebased, touchedTables, type Draft, type DraftAction } from './draft';
import { gridOf, nested, tableOf } from './grid';

interface Props {
    /** The revision the draft rests on. */
    base: Calibration;
    newest: number;
    definitions: Schemas['TableDefinition'][];
    draft: Draft;
    dispatch: Dispatch<DraftAction>;
}

/** What was typed becomes one revision with a note; until then every step can be undone. */
export const SaveStrip = memo(function SaveStrip({ base, newest, definitions, draft, dispatch }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [note, setNote] = useState('');
    const [known, setKnown] = useState<ProvenanceKind>('assumed');
    const [said, setSaid] = useState('');
    const noteField = useRef<HTMLInputElement>(null);
    const tables = touchedTables(draft);
    const changes = tables.map((key) => {
        const table = tableOf(base, key);
        const saved = table ? gridOf(table) : [];
        const now = drafted(saved, key, draft.done);
        return { key, count: changedCells(saved, now).length, values: nested(now, table?.axes.length ?? 0) };
    });
    const changed = changes.filter(({ count }) => count > 0);
    const total = changed.reduce((sum, { count }) => sum + count, 0);
    const titles = changed.map(({ key }) => definitions.find((entry) => entry.key === key)?.title.toLowerCase() ?? key);
    const stale = base.revision !== newest;
    const fresh = useQuery({ ...calibrationQuery(job.id, newest), enabled: stale && draft.done.length > 0 });
    const save = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST('/api/jobs/{job_id}/calibration', {
                    params: { path: { job_id: job.id } },
                    body: {
                        note,
                        based_on: base.revision,
                        tables: Object.fromEntries(changed.map(({ key, values }) => [key, { values }])),
                        provenance: known,
                    },
                }),
            ),
        onSuccess: async (saved) => {
            dispatch({ type: 'clear', revision: saved.revision });
            setNote('');
            setSaid(`Saved as revision ${saved.revision}.`);
            await refresh(queryClient, job.id, 'tables');
        },
        onError: () => refresh(queryClient, job.id, 'tables'),
    });
    useKeys({ w: () => noteField.current?.focus() });
    const bring = () => {
        if (!fresh.data) return;
        const result = rebased(draft, base, fresh.data);
        dispatch({ type: 'load', draft: result.draft });
        save.reset();
        setSaid(
            [
                `Your ${result.kept} changes rest on revision ${newest} now.`,
                result.both.length ? `${result.both.length} of them stand where somebody else changed the value too: look at those before saving.` : '',
                result.lost.length ? `The breakpoints of ${result.lost.join(', ')} changed; what you typed there could not be brought along.` : '',
            ].join(' '),
        );
    };
    if (stale && draft.done.length > 0) {
        return <Overtaken newest={newest} base={base} isReady={Boolean(fresh.data)} onBring={bring} />;
    }
    return (
        <Paper sx={{ position: 'sticky', bottom: 0, zIndex: 2, mt: 1, p: 1, border: 1, borderColor: total ? 'primary.main' : 'divider' }}>
            <Stack
                component="form"
                direction="row"
                sx={{ gap: 1, alignItems: 'center', flexWrap: 'wrap' }}
                onSubmit={(event) => {
                    event.preventDefault();
                    if (total) save.mutate();
                }}
            >
                <Typography sx={{ flex: '1 1 180px', fontWeight: total ? 650 : 400 }} role="status" aria-label="Draft">
                    {total ? `${total} ${total === 1 ? 'cell' : 'cells'} changed: ${titles.join(', ')}.` : said || 'Nothing is changed.'}
                    {total > 0 && said ? ` ${said}` : ''}
                </Typography>
                <Button size="small" onClick={() => dispatch({ type: 'undo' })} disabled={!draft.done.length}>
                    Undo
                </Button>
                <Button size="small" onClick={() => dispatch({ type: 'redo' })} disabled={!draft.undone.length}>
                    Redo
                </Button>
                {total > 0 && <WhyAndSave note={note} known={known} newest={newest} onNote={setNote} onKnown={setKnown} isBusy={save.isPending} field={noteField} />}
            </Stack>
            {save.error && <ProblemNote error={save.error} />}
        </Paper>
    );
});

interface WhyAndSaveProps {
    note: string;
    known: ProvenanceKind;
    newest: number;
    onNote: (note: string) => void;
    onKnown: (known: ProvenanceKind) => void;
    isBusy: boolean;
    field: RefObject<HTMLInputElement | null>;
}

/** Why, how it is known, and the button that saves. */
function WhyAndSave({ note, known, newest, onNote, onKnown, isBusy, field }: WhyAndSaveProps) {
    return (
        <>
            <TextField label="Why (kept with the revision)" inputRef={field} value={note} onChange={(event) => onNote(event.target.value)} sx={{ flex: '2 1 200px' }} />
            <Choice label="How known" value={known} onChange={(value) => onKnown(value as ProvenanceKind)} options={PROVENANCE_WORDS} width={150} />
            <Button type="submit" variant="contained" disabled={isBusy}>
                Save as revision {newest + 1}
            </Button>
        </>
    );
}

interface OvertakenProps {
    newest: number;
    base: Calibration;
    isReady: boolean;
    onBring: () => void;
}

/** Somebody else saved a revision meanwhile: nothing typed is lost. */
function Overtaken({ newest, base, isReady, onBring }: OvertakenProps) {
    return (
        <Alert
            severity="warning"
            variant="outlined"
            sx={{ mt: 1, color: 'text.primary' }}
            action={
                <Button color="inherit" onClick={onBring} disabled={!isReady}>
                    Bring my changes onto revision {newest}
                </Button>
            }
        >
            Revision {newest} was saved while you worked on revision {base.revision}. Nothing you typed is lost.
        </Alert>
    );
}
