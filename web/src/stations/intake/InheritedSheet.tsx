import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';

import { client, unwrap, type Schemas } from '../../api/client';
import { multipart } from '../../api/multipart';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { mono } from '../../parts/theme';
import { ProblemNote } from '../../parts/ProblemNote';
import { moment } from '../../parts/when';
import { inUnits } from '../../units/said';

interface Brought {
    found: Schemas['FoundOut'];
    source: Schemas['InheritedSourceIn'];
}

/** Bring what was found in the controller: files, or tables pasted with their axes. */
export function InheritedSheet({ inherited }: { inherited: Schemas['InheritedOut'] | null }) {
    const { job, vocabulary } = useJob();
    const queryClient = useQueryClient();
    const navigate = useNavigate();
    const [brought, setBrought] = useState<Brought[]>([]);
    const [table, setTable] = useState('');
    const [text, setText] = useState('');
    const [note, setNote] = useState('');
    const path = { params: { path: { job_id: job.id } } };
    const file = useMutation({
        mutationFn: async (files: File[]) => {
            for (const one of files) {
                const found = await unwrap(client.POST('/api/jobs/{job_id}/inherited/file', { ...path, ...multipart({ file: one }) }));
                setBrought((old) => [...old, { found, source: { upload_id: found.upload_id, name: one.name, text: '', table: '' } }]);
            }
        },
    });
    const paste = useMutation({
        mutationFn: () => unwrap(client.POST('/api/jobs/{job_id}/inherited/paste', { ...path, body: { text, table } })),
        onSuccess: (found) => {
            setBrought((old) => [...old, { found, source: { upload_id: '', name: found.name, text, table } }]);
            setText('');
            setTable('');
        },
    });
    const keep = useMutation({
        mutationFn: () => unwrap(client.POST('/api/jobs/{job_id}/inherited', { ...path, body: { sources: brought.map(({ source }) => source), note } })),
        onSuccess: async () => {
            await refresh(queryClient, job.id, 'intake', 'tables');
            await navigate(`/jobs/${job.id}/intake/review`);
        },
    });
    const keys = new Set(brought.flatMap(({ found }) => found.tables.map(({ key }) => key)));
    const missing = vocabulary.tables.filter((entry) => !entry.optional && !keys.has(entry.key));
    return (
        <WithMargin margin={<AsFound inherited={inherited} />}>
            <Typography variant="h1" sx={{ mb: 0.5 }}>
                Inherited calibration
            </Typography>
            <Typography variant="body2" sx={{ mb: 1.5, maxWidth: 760 }}>
                Files: JSON or CSV of this program, an archive with one CSV for each table, or a spreadsheet workbook with a sheet for each. Or copy a table with its axes from a spreadsheet and paste it. Nothing is saved before you have seen what was understood.
            </Typography>
            <Stack direction={{ xs: 'column', md: 'row' }} sx={{ gap: 3, mb: 2, alignItems: 'flex-start' }}>
                <Box>
                    <BringFiles isReading={file.isPending} onFiles={file.mutate} />
                </Box>
                <PasteTable table={table} text={text} isReading={paste.isPending} onRead={() => paste.mutate()} onTable={setTable} onText={setText} />
            </Stack>
            {(file.error ?? paste.error) && <ProblemNote error={(file.error ?? paste.error) as Error} />}
            {brought.length > 0 && (
                <>
                    <Typography variant="h2">What was understood</Typography>
                    {brought.map(({ found }, i) => <Understood key={i} found={found} onLeave={() => setBrought((old) => old.filter((_, n) => n !== i))} />)}
                    {missing.length > 0 && (
                        <Typography variant="body2" sx={{ mb: 1 }}>
                            Not among them, and taken from the engine data: {missing.map(({ title }) => title.toLowerCase()).join(', ')}.
                        </Typography>
                    )}
                    <KeepUntouched
                        note={note}
                        isBusy={keep.isPending}
                        onKeep={() => keep.mutate()}
                        onNote={setNote}
                    />
                    {keep.error && <ProblemNote error={keep.error} />}
                </>
            )}
        </WithMargin>
    );
}

interface KeepUntouchedProps {
    note: string;
    isBusy: boolean;
    onKeep: () => void;
    onNote: (note: string) => void;
}

/** The note, and the button that keeps it all as a revision. */
function KeepUntouched({ note, isBusy, onKeep, onNote }: KeepUntouchedProps) {
    return (
        <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap' }}>
            <TextField label="Note" value={note} onChange={(event) => onNote(event.target.value)} sx={{ flex: '1 1 240px' }} />
            <Button variant="contained" onClick={onKeep} disabled={isBusy}>
                Keep untouched and look it over
            </Button>
        </Stack>
    );
}

/** What was read from one file or paste. */
function Understood({ found, onLeave }: { found: Schemas['FoundOut']; onLeave: () => void }) {
    return (
        <Box sx={{ borderLeft: 4, borderColor: 'primary.main', pl: 1.5, my: 1 }}>
            <Stack direction="row" sx={{ alignItems: 'baseline', gap: 1 }}>
                <Typography sx={{ fontWeight: 650 }}>{found.name}</Typography>
                <Button size="small" onClick={onLeave}>
                    Leave it out
                </Button>
            </Stack>
            <Typography variant="body2">{found.understood.join(' ')}</Typography>
            {found.passed_over.map((sentence) => (
                <Typography key={sentence} variant="body2" sx={{ color: 'warning.main' }}>
                    Passed over: {inUnits(sentence)}
                </Typography>
            ))}
        </Box>
    );
}

interface PasteTableProps {
    table: string;
    text: string;
    isReading: boolean;
    onRead: () => void;
    onTable: (table: string) => void;
    onText: (text: string) => void;
}

/** A table with its axes, pasted from a spreadsheet. */
function PasteTable({ table, text, isReading, onRead, onTable, onText }: PasteTableProps) {
    const { vocabulary } = useJob();
    return (
        <Stack sx={{ flex: 1, gap: 1, width: '100%', maxWidth: 620 }}>
            <Stack direction="row" sx={{ gap: 1 }}>
                <TextField select label="Pasted table" value={table} onChange={(event) => onTable(event.target.value)} sx={{ flex: 1 }}>
                    <MenuItem value="">its first cell says which</MenuItem>
                    {vocabulary.tables.map((entry) => (
                        <MenuItem key={entry.key} value={entry.key}>
                            {entry.title}
                        </MenuItem>
                    ))}
                </TextField>
                <Button variant="outlined" disabled={!text.trim() || isReading} onClick={onRead} sx={{ flex: 'none' }}>
                    Read the paste
                </Button>
            </Stack>
            <TextField
                label="Paste a table with its axes here"
                multiline
                minRows={4}
                maxRows={10}
                value={text}
                onChange={(event) => onText(event.target.value)}
                slotProps={{ htmlInput: { style: { fontFamily: mono, fontSize: '0.85rem', whiteSpace: 'pre', overflowX: 'auto' } } }}
            />
        </Stack>
    );
}

/** Files of a calibration, read one after another. */
function BringFiles({ isReading, onFiles }: { isReading: boolean; onFiles: (files: File[]) => void }) {
    return (
        <Button component="label" variant="contained" disabled={isReading}>
            {isReading ? 'Reading …' : 'Bring files'}
            <input
                type="file"
                hidden
                multiple
                accept=".json,.csv,.zip,.xlsx,.txt"
                aria-label="Calibration files"
                onChange={(event) => {
                    const files = [...(event.target.files ?? [])];
                    if (files.length) onFiles(files);
                    event.target.value = '';
                }}
            />
        </Button>
    );
}

/** What was kept untouched, and by whom. */
function AsFound({ inherited }: { inherited: Schemas['InheritedOut'] | null }) {
    const { job } = useJob();
    return (
        inherited ? (
            <>
                <Typography variant="h2">As found</Typography>
                <Typography variant="body2">
                    Revision {inherited.revision}, {inherited.tables.length} tables, kept untouched by {inherited.author}, {moment(inherited.created_at)}.
                </Typography>
                {inherited.sources.map((source, i) => <PassedOver key={i} source={source} />)}
                <Button component={Link} to={`/jobs/${job.id}/intake/review`} variant="outlined" sx={{ mt: 1 }}>
                    See its review
                </Button>
            </>
        ) : (
            <Typography variant="body2">
                Before anything is changed, an untouched copy of what was in the controller is kept here as a revision, and looked over.
            </Typography>
        )
    );
}

/** One source, and what of it was not taken. */
function PassedOver({ source }: { source: Schemas['InheritedOut']['sources'][number] }) {
    return (
        <Box sx={{ mt: 1 }}>
            <Typography variant="body2" sx={{ fontWeight: 650 }}>
                {source.name}
            </Typography>
            {source.passed_over.map((sentence) => (
                <Typography key={sentence} variant="caption" component="p" sx={{ m: 0 }}>
                    passed over: {inUnits(sentence)}
                </Typography>
            ))}
        </Box>
    );
}
