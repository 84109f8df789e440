import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Paper from '@mui/material/Paper';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef, useState, type Dispatch } from 'react';

import { client, unwrap, type Calibration } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { useKeys } from '../../parts/shortcuts';
import { ProblemNote } from '../../parts/ProblemNote';
import { PROVENANCE_WORDS, type ProvenanceKind } from '../../parts/provenance';
import { editedTables, type EditAction, type Edits } from './edits';

interface Props {
    calibration: Calibration;
    edits: Edits;
    dispatch: Dispatch<EditAction>;
}

/** Typed changes become one revision with a note; until then they can be undone. */
export function SaveBar({ calibration, edits, dispatch }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [note, setNote] = useState('');
    const [known, setKnown] = useState<ProvenanceKind>('assumed');
    const noteField = useRef<HTMLInputElement>(null);
    const count = Object.keys(edits.present).length;
    const save = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST('/api/jobs/{job_id}/calibration', {
                    params: { path: { job_id: job.id } },
                    body: {
                        note,
                        based_on: calibration.revision,
                        tables: editedTables(calibration, edits.present),
                        provenance: known,
                    },
                }),
            ),
        onSuccess: async () => {
            dispatch({ type: 'clear' });
            setNote('');
            await refresh(queryClient, job.id, 'tables');
        },
        onError: () => queryClient.invalidateQueries({ queryKey: ['jobs', job.id, 'calibration'] }),
    });
    useKeys({ w: () => noteField.current?.focus() });
    if (count === 0 && edits.past.length === 0 && !save.error) return null;
    return (
        <Paper sx={{ position: 'sticky', bottom: 0, mt: 1, p: 1.25, border: 1, borderColor: 'primary.main', zIndex: 2 }}>
            <Stack
                component="form"
                direction="row"
                spacing={1}
                sx={{ alignItems: 'center', flexWrap: 'wrap', rowGap: 1 }}
                onSubmit={(event) => {
                    event.preventDefault();
                    save.mutate();
                }}
            >
                <Typography sx={{ fontWeight: 650, minWidth: 96 }}>
                    {count === 1 ? '1 cell typed' : `${count} cells typed`}
                </Typography>
                <Button onClick={() => dispatch({ type: 'undo' })} disabled={edits.past.length === 0}>
                    Undo
                </Button>
                <Button onClick={() => dispatch({ type: 'redo' })} disabled={edits.future.length === 0}>
                    Redo
                </Button>
                <TextField
                    label="Note: why"
                    value={note}
                    onChange={(event) => setNote(event.target.value)}
                    inputRef={noteField}
                    sx={{ flex: 1, minWidth: 160 }}
                />
                <TextField
                    select
                    label="How known"
                    value={known}
                    onChange={(event) => setKnown(event.target.value as ProvenanceKind)}
                    sx={{ width: 140 }}
                >
                    {(Object.keys(PROVENANCE_WORDS) as ProvenanceKind[]).map((kind) => (
                        <MenuItem key={kind} value={kind}>
                            {PROVENANCE_WORDS[kind]}
                        </MenuItem>
                    ))}
                </TextField>
                <Button type="submit" variant="contained" disabled={count === 0 || save.isPending}>
                    Save as revision {calibration.revision + 1}
                </Button>
            </Stack>
            {save.error && <ProblemNote error={save.error} />}
        </Paper>
    );
}
