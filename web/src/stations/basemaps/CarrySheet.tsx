import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { nearestQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { inUnits } from '../../units/said';
import { decimalsOf, formatNumber, namedUnit } from '../../units/units';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { SmallTable } from '../../parts/SmallTable';
import { useComputed } from '../../parts/useComputed';

type Source = Schemas['CarrySourceOut'];

/** Earlier jobs and shipped examples, the nearest first; what each would bring, table by table. */
export function CarrySheet({ revision }: { revision: number }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const sources = useQuery(nearestQuery(job.id));
    const [chosen, setChosen] = useState<string | null>(null);
    const [left, setLeft] = useState<readonly string[]>([]);
    const [note, setNote] = useState('');
    const path = { params: { path: { job_id: job.id } } };
    const source = sources.data?.find((entry) => idOf(entry) === chosen) ?? sources.data?.[0];
    const preview = useComputed(`carry-${job.id}-${revision}`, source ? { kind: source.kind, key: source.key } : null, (body) =>
        unwrap(client.POST('/api/jobs/{job_id}/base-maps/carry-over/preview', { ...path, body: { ...body, based_on: revision, note: '' } })),
    );
    const tables = preview.data?.tables ?? [];
    const wanted = tables.filter((table) => table.carried && !left.includes(table.key)).map(({ key }) => key);
    const carry = useMutation({
        mutationFn: (from: Source) =>
            unwrap(client.POST('/api/jobs/{job_id}/base-maps/carry-over', { ...path, body: { kind: from.kind, key: from.key, tables: wanted, based_on: revision, note } })),
        onSuccess: () => refresh(queryClient, job.id, 'tables', 'intake'),
    });
    if (!sources.data) return sources.error ? <ProblemNote error={sources.error} /> : <Loading what="Looking for the nearest engine" />;
    return (
        <WithMargin
            margin={
                source && <HowFar source={source} />
            }
        >
            <Typography variant="h1" sx={{ mb: 0.5 }}>
                Carry over from another engine
            </Typography>
            <Typography variant="body2" sx={{ mb: 1.5, maxWidth: 760 }}>
                What somebody found out about that engine, beyond what its data say, is put on what this engine’s data give. Every cell is marked as carried over.
            </Typography>
            <Box component="ul" aria-label="Engines, the nearest first" sx={{ listStyle: 'none', m: 0, p: 0, mb: 2 }}>
                {sources.data.map((entry) => {
                    const here = source !== undefined && idOf(entry) === idOf(source);
                    return (
                        <SourceLine key={idOf(entry)} entry={entry} onChoose={() => {
                                   setChosen(idOf(entry));
                                    setLeft([]);
                                }} isChosen={here} />
                    );
                })}
            </Box>
            {preview.error && <ProblemNote error={preview.error} />}
            {tables.length > 0 && (
                <>
                    <Typography variant="h2">What it brings</Typography>
                    <Box component="table" aria-label="What it brings" sx={{ borderCollapse: 'collapse', width: '100%', '& td, & th': { textAlign: 'left', py: 0.5, pr: 1.5, borderBottom: 1, borderColor: 'divider', verticalAlign: 'top' }, '& th': { color: 'text.secondary', fontWeight: 600 } }}>
                        <thead>
                            <tr>
                                <th>take</th>
                                <th>table</th>
                                <th>largest change</th>
                                <th>how</th>
                            </tr>
                        </thead>
                        <tbody>
                            {tables.map((table) => (
                                <CarriedTable key={table.key} table={table} left={left} onLeave={setLeft} />
                            ))}
                        </tbody>
                    </Box>
                    <Stack direction="row" sx={{ gap: 1, mt: 1.5, flexWrap: 'wrap' }}>
                        <TextField label="Why (kept with the revision)" value={note} onChange={(event) => setNote(event.target.value)} sx={{ flex: '1 1 260px' }} />
                        <Button variant="contained" disabled={!wanted.length || carry.isPending || !source} onClick={() => source && carry.mutate(source)}>
                            Carry {wanted.length} tables over
                        </Button>
                    </Stack>
                </>
            )}
            {carry.error && <ProblemNote error={carry.error} />}
            {carry.data && (
                <Typography role="status" sx={{ mt: 1 }}>
                    Revision {carry.data.revision}. {inUnits(carry.data.sentence)}
                </Typography>
            )}
        </WithMargin>
    );
}

/** One table: whether it is taken, and how much it changes. */
function CarriedTable({ table, left, onLeave }: { table: Schemas['CarriedTableOut']; left: readonly string[]; onLeave: (left: readonly string[]) => void }) {
    const { vocabulary } = useJob();
    const resolution = vocabulary.tables.find(({ key }) => key === table.key)?.resolution ?? 0.1;
    return (
        <tr>
            <td>
                <Checkbox
                    size="small"
                    sx={{ p: 0.25 }}
                    slotProps={{ input: { 'aria-label': `Take ${table.title}` } }}
                    disabled={!table.carried}
                    checked={table.carried && !left.includes(table.key)}
                    onChange={(event) => onLeave(event.target.checked ? left.filter((key) => key !== table.key) : [...left, table.key])}
                />
            </td>
            <Box component="td" sx={{ color: table.carried ? 'text.primary' : 'text.secondary' }}>
                {table.title}
            </Box>
            <td>{table.carried ? `${formatNumber(table.largest, decimalsOf(resolution))} ${namedUnit(table.unit)}` : '–'}</td>
            <Box component="td" sx={{ fontSize: '0.9rem' }}>
                {inUnits(table.sentence)}
            </Box>
        </tr>
    );
}

/** One engine to carry over from. */
function SourceLine({ entry, onChoose, isChosen }: { entry: Schemas['CarrySourceOut']; onChoose: () => void; isChosen: boolean }) {
    return (
        <Box component="li" sx={{ borderLeft: 4, borderColor: isChosen ? 'primary.main' : 'transparent', borderBottom: '1px solid var(--mui-palette-divider)', bgcolor: isChosen ? 'background.paper' : 'transparent' }}>
            <Button
                fullWidth
                aria-pressed={isChosen}
                onClick={onChoose}
                sx={{ justifyContent: 'flex-start', textAlign: 'left', gap: 2, py: 0.75 }}
            >
                <Box component="span" sx={{ flex: 1 }}>
                    {entry.name}
                </Box>
                <Typography component="span" variant="body2" color="text.secondary">
                    {entry.kind === 'job' ? `revision ${entry.revision}, ${entry.good_trials} good starts` : 'ships with the program, simulated'}
                </Typography>
                <Typography component="span" variant="body2" sx={{ width: 110, textAlign: 'right' }}>
                    distance {formatNumber(entry.distance, 2)}
                </Typography>
            </Button>
        </Box>
    );
}

/** What makes the two engines differ, and how much each part counts. */
function HowFar({ source }: { source: Source }) {
    return (
        <SmallTable
            title="How far it is"
            heads={['what differs', 'counts']}
            rows={source.parts.length ? source.parts.map((part) => [`${part.name}: ${inUnits(part.sentence)}`, formatNumber(part.amount, 2)]) : [['nothing that counts', '0.00']]}
            wide
            foot={`Together ${formatNumber(source.distance, 2)}. Injectors, rail pressure, altitude and schools count nothing: carrying over works them out.`}
        />
    );
}

function idOf(source: Source): string {
    return `${source.kind} ${source.key}`;
}
