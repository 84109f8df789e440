import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import MenuItem from '@mui/material/MenuItem';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { multipart } from '../../api/multipart';
import { useJob } from '../../parts/jobContext';
import { NumberField } from '../../parts/NumberField';
import { ProblemNote } from '../../parts/ProblemNote';
import { parseNumber } from '../../units/units';
import { CircumstanceFields } from './CircumstanceFields';
import { circumstancesOf, NO_CIRCUMSTANCES } from './circumstances';
import { useJudge } from './useJudge';
import { inUnits } from '../../units/said';

type Preview = Schemas['PreviewOut'];
type Choice = string | { channel: string; unit: string } | null;
type Mapping = Record<string, Choice>;

/** Bring a log: drop it, see how every column is read, correct that, save it, have it judged. */
export function LogForm() {
    const { job } = useJob();
    const judge = useJudge();
    const path = { job_id: job.id };
    const [name, setName] = useState('');
    const [mapping, setMapping] = useState<Mapping>({});
    const [circumstances, setCircumstances] = useState(NO_CIRCUMSTANCES);
    const [startNumber, setStartNumber] = useState('1');
    const abort = useRef<AbortController | null>(null);
    const read = useMutation({
        mutationFn: (input: { file?: File; uploadId?: string; mapping?: Mapping }) => {
            abort.current = new AbortController();
            return unwrap(
                client.POST('/api/jobs/{job_id}/logs/preview', {
                    params: { path },
                    signal: abort.current.signal,
                    ...multipart({
                        ...(input.file ? { file: input.file } : { upload_id: input.uploadId ?? '' }),
                        ...(input.mapping ? { mapping: JSON.stringify(input.mapping) } : {}),
                    }),
                }),
            );
        },
    });
    const save = useMutation({
        mutationFn: async (preview: Preview) => {
            const log = await unwrap(
                client.POST('/api/jobs/{job_id}/logs', {
                    params: { path },
                    ...multipart({
                        upload_id: preview.upload_id,
                        name,
                        ...(Object.keys(mapping).length > 0 ? { mapping: JSON.stringify(mapping) } : {}),
                    }),
                }),
            );
            await judge.mutateAsync({
                log_id: log.id,
                start_number: parseNumber(startNumber) ?? 1,
                ...circumstancesOf(circumstances, job.units),
            });
        },
    });
    const take = (file: File | undefined) => {
        if (!file) return;
        setName(file.name);
        setMapping({});
        save.reset();
        read.mutate({ file });
    };
    const preview = read.data;
    const remap = (column: string, choice: Choice) => {
        if (!preview) return;
        const changed = { ...mapping, [column]: choice };
        setMapping(changed);
        read.mutate({ uploadId: preview.upload_id, mapping: changed });
    };
    const hasCoolant = preview?.uses.some((use) => use.channel === 'coolant_c') ?? false;
    return (
        <Stack spacing={2}>
            <DropField onFile={take} fileName={name} />
            {read.isPending && (
                <Stack direction="row" spacing={2} sx={{ alignItems: 'center' }}>
                    <LinearProgress sx={{ flex: 1 }} aria-label="Reading the file" />
                    <Button onClick={() => abort.current?.abort()}>Cancel</Button>
                </Stack>
            )}
            {read.error && read.error.name !== 'AbortError' && <ProblemNote error={read.error} />}
            {preview && (
                <>
                    <MappingTable preview={preview} onChange={remap} />
                    <CircumstanceFields
                        value={circumstances}
                        onChange={setCircumstances}
                        askCoolant={!hasCoolant}
                        extra={
                            <NumberField
                                label="Which start in the log"
                                value={startNumber}
                                onChange={setStartNumber}
                                help="restarts count on their own"
                            />
                        }
                    />
                    {save.error && <ProblemNote error={save.error} />}
                    <Button
                        variant="contained"
                        size="large"
                        sx={{ alignSelf: 'start', minHeight: 48 }}
                        disabled={preview.missing.length > 0 || save.isPending || read.isPending}
                        onClick={() => save.mutate(preview)}
                    >
                        Save the log and judge the start
                    </Button>
                </>
            )}
        </Stack>
    );
}

function DropField({ onFile, fileName }: { onFile: (file: File | undefined) => void; fileName: string }) {
    const { vocabulary } = useJob();
    const [over, setOver] = useState(false);
    return (
        <Box
            component="label"
            onDragOver={(event) => {
                event.preventDefault();
                setOver(true);
            }}
            onDragLeave={() => setOver(false)}
            onDrop={(event) => {
                event.preventDefault();
                setOver(false);
                onFile(event.dataTransfer.files[0]);
            }}
            sx={{
                display: 'block',
                p: fileName ? 1.25 : 3,
                textAlign: 'center',
                border: '2px dashed',
                borderColor: over ? 'primary.main' : 'ink.rule',
                bgcolor: 'background.paper',
                cursor: 'pointer',
                '&:focus-within': { borderColor: 'primary.main' },
            }}
        >
            <Typography sx={{ fontWeight: 650 }}>{fileName || 'Drop the log here, or choose a file'}</Typography>
            {!fileName && (
                <Typography variant="body2" color="text.secondary">
                    CSV text of any controller or logger, up to {Math.round(vocabulary.limits.log_bytes / 1e6)} MB. Nothing is saved before you have seen
                    how it is read.
                </Typography>
            )}
            <input
                type="file"
                aria-label="Log file"
                accept=".csv,.txt,.log,.tsv,text/*"
                onChange={(event) => {
                    onFile(event.target.files?.[0]);
                    event.target.value = '';
                }}
                style={{ position: 'absolute', width: 1, height: 1, opacity: 0 }}
            />
        </Box>
    );
}

interface MappingProps {
    preview: Preview;
    onChange: (column: string, choice: Choice) => void;
}

/** How every column is read and why; nothing is dropped in silence. */
function MappingTable({ preview, onChange }: MappingProps) {
    const titles = Object.fromEntries(preview.known_channels.map((channel) => [channel.name, channel.title]));
    return (
        <Box>
            {preview.remembered && (
                <Typography variant="body2" gutterBottom>
                    Read as you confirmed for the last file of this kind.
                </Typography>
            )}
            {preview.missing.length > 0 && (
                <Alert severity="warning" variant="outlined" sx={{ mb: 1, color: 'text.primary' }}>
                    Say which column is {preview.missing.map((name) => (titles[name] ?? name).toLowerCase()).join(' and which is ')}.
                </Alert>
            )}
            {preview.problems.map((sentence) => (
                <Typography key={sentence} variant="body2">
                    {inUnits(sentence)}
                </Typography>
            ))}
            <Box
                tabIndex={0}
                role="region"
                aria-label="How the columns are read"
                sx={{ maxHeight: 312, overflow: 'auto', border: 1, borderColor: 'divider', bgcolor: 'background.paper', mt: 1 }}
            >
                <Box component="table" sx={{ width: '100%', borderCollapse: 'collapse', '& td, & th': { p: 0.75, textAlign: 'left', borderBottom: 1, borderColor: 'divider' } }}>
                    <thead>
                        <tr>
                            <th scope="col">Column in the file</th>
                            <th scope="col">is read as</th>
                            <th scope="col">in</th>
                            <th scope="col">because</th>
                        </tr>
                    </thead>
                    <tbody>
                        {preview.uses.map((use, number) => (
                            <tr key={`${number}-${use.column}`}>
                                <td>{use.column || '(no name)'}</td>
                                <td>
                                    <TextField
                                        select
                                        value={use.channel ?? ''}
                                        onChange={(event) => onChange(use.column, event.target.value || null)}
                                        sx={{ minWidth: 190 }}
                                        slotProps={{
                                            select: { displayEmpty: true },
                                            htmlInput: { 'aria-label': `${use.column} is read as` },
                                        }}
                                    >
                                        <MenuItem value="">not read</MenuItem>
                                        {preview.known_channels.map((channel) => (
                                            <MenuItem key={channel.name} value={channel.name}>
                                                {channel.title}
                                            </MenuItem>
                                        ))}
                                    </TextField>
                                </td>
                                <td>
                                    <UnitChoice use={use} channels={preview.known_channels} onChange={onChange} />
                                </td>
                                <td>
                                    <Typography variant="body2">{use.reason}</Typography>
                                </td>
                            </tr>
                        ))}
                    </tbody>
                </Box>
            </Box>
        </Box>
    );
}

interface UnitChoiceProps {
    use: Preview['uses'][number];
    channels: Preview['known_channels'];
    onChange: (column: string, choice: Choice) => void;
}

/** The unit of a column, to be corrected where the file does not say it. */
function UnitChoice({ use, channels, onChange }: UnitChoiceProps) {
    const offered = channels.find((channel) => channel.name === use.channel)?.offered_units ?? [];
    if (!use.channel || !use.read_unit) return null;
    if (offered.length < 2) return <>{use.read_unit}</>;
    return (
        <TextField
            select
            value={use.read_unit}
            onChange={(event) => onChange(use.column, { channel: use.channel ?? '', unit: event.target.value })}
            sx={{ minWidth: 92 }}
            slotProps={{ htmlInput: { 'aria-label': `Unit of ${use.column}` } }}
        >
            {offered.map((unit) => (
                <MenuItem key={unit} value={unit}>
                    {unit}
                </MenuItem>
            ))}
        </TextField>
    );
}
