import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import MuiLink from '@mui/material/Link';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { client, unwrap, type CellChange, type Trial } from '../../api/client';
import { trialQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { useKeys } from '../../parts/shortcuts';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';
import { decimalsOf, formatNumber, parseNumber, toShown } from '../../units/units';
import { capitalised } from '../../parts/words';
import { placeOf } from '../../parts/placeOf';
import { ProblemNote } from '../../parts/ProblemNote';
import { Rulebook } from './Rulebook';

type Mode = 'look' | 'change' | 'decline';

/** The advice: one change with its reason and what would prove it wrong; accept, change or decline. */
export function AdviceCard({ trial }: { trial: Trial }) {
    const { job } = useJob();
    const [book, setBook] = useState(false);
    const advice = trial.advice[0];
    if (!advice) {
        return (
            <Typography>
                {trial.good
                    ? 'Nothing needs changing at this temperature.'
                    : trial.acceptance.failed.length > 0
                      ? 'No single change can be advised from this start. Look at the findings below.'
                      : 'Nothing speaks against this start, and nothing needs changing; it is not proven yet. The findings say what is missing.'}
            </Typography>
        );
    }
    return (
        <Box
            component="section"
            aria-label="Advice"
            sx={{
                border: 2,
                borderColor: advice.table ? 'primary.main' : 'warning.main',
                bgcolor: 'background.paper',
                p: { xs: 1.5, md: 2 },
            }}
        >
            <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: 'minmax(0, 1fr) auto' }, gap: 2 }}>
                <div>
                    <Typography variant="h2">
                        {advice.table ? <ChangeTitle trial={trial} /> : advice.rule === 'measure' ? 'Measure this next' : 'Mend this before any table'}
                    </Typography>
                    <Typography sx={{ mt: 0.5 }}>{inUnits(advice.reason, job.units)}</Typography>
                    <Typography variant="body2" sx={{ mt: 0.5 }}>
                        <b>Wrong if:</b> {advice.disproof}
                    </Typography>
                    <Typography variant="body2" color="text.secondary">
                        {capitalised(advice.sureness)} ({Math.round(100 * advice.confidence)} %), rule {advice.rule}.{' '}
                        <MuiLink component="button" type="button" onClick={() => setBook(true)}>
                            The whole rulebook
                        </MuiLink>
                    </Typography>
                </div>
                {advice.table && <Cells changes={advice.changes} table={advice.table} />}
            </Box>
            <Measured parts={advice.measured} />
            <Decide trial={trial} />
            <Rulebook open={book} here={advice.rule} onClose={() => setBook(false)} />
        </Box>
    );
}

/** What the same log measured of other tables: taken along unless the box is cleared. */
function Measured({ parts }: { parts: Trial['advice'][number]['measured'] }) {
    if (parts.length === 0) return null;
    return (
        <Box component="section" aria-label="Measured by the way" sx={{ mt: 1.5, pt: 1, borderTop: 1, borderColor: 'divider' }}>
            {parts.map((part) => (
                <MeasuredPart key={part.table} part={part} />
            ))}
        </Box>
    );
}

function MeasuredPart({ part }: { part: Trial['advice'][number]['measured'][number] }) {
    const title = useDefinition(part.table)?.title ?? part.table;
    return (
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: 'minmax(0, 1fr) auto' }, gap: 2, py: 0.5 }}>
            <div>
                <Typography variant="h3">{title}, measured by the way</Typography>
                <Typography variant="body2">{part.because}</Typography>
            </div>
            <Cells changes={part.changes} table={part.table} />
        </Box>
    );
}

function useDefinition(table: string) {
    const { vocabulary } = useJob();
    return vocabulary.tables.find((entry) => entry.key === table);
}

function ChangeTitle({ trial }: { trial: Trial }) {
    const table = trial.advice[0]?.table ?? '';
    return <>Change one thing: {useDefinition(table)?.title.toLowerCase() ?? table}</>;
}

/** From and to of each cell; two cells belong together where the start lies between them. */
function Cells({ changes, table }: { changes: CellChange[]; table: string }) {
    const definition = useDefinition(table);
    const { job, vocabulary } = useJob();
    const decimals = decimalsOf(definition?.resolution ?? 0.1);
    return (
        <Box component="table" sx={{ borderCollapse: 'collapse', alignSelf: 'start', '& td, & th': { px: 1, py: 0.25 } }}>
            <tbody>
                {changes.map((change) => (
                    <tr key={change.index.join()}>
                        <Box component="th" scope="row" sx={{ fontWeight: 400, textAlign: 'right', whiteSpace: 'nowrap' }}>
                            {placeOf(change, definition?.axes ?? [], vocabulary.axes, job.units)}
                        </Box>
                        <Box component="td" sx={{ fontFamily: mono, textAlign: 'right' }}>
                            {formatNumber(change.from, decimals)}
                        </Box>
                        <td aria-label="to">→</td>
                        <Box component="td" sx={{ fontFamily: mono, fontWeight: 700, fontSize: '1.15rem', textAlign: 'right' }}>
                            {formatNumber(change.to, decimals)}
                        </Box>
                        <td>{definition?.unit}</td>
                    </tr>
                ))}
            </tbody>
        </Box>
    );
}

function Decide({ trial }: { trial: Trial }) {
    const { job } = useJob();
    const advice = trial.advice[0];
    const queryClient = useQueryClient();
    const [mode, setMode] = useState<Mode>('look');
    const [note, setNote] = useState('');
    const [own, setOwn] = useState<Record<string, string>>({});
    const [along, setAlong] = useState(true);
    const path = { job_id: job.id, trial_id: trial.id };
    const again = async () => {
        await refresh(queryClient, job.id, 'trials', 'tables');
    };
    const accept = useMutation({
        mutationFn: (changes: { index: number[]; to: number }[] | null) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/trials/{trial_id}/accept', {
                    params: { path },
                    body: { changes, measured: along, note },
                }),
            ),
        onSuccess: async (answer) => {
            queryClient.setQueryData(trialQuery(job.id, trial.id).queryKey, answer.trial);
            await again();
        },
    });
    const decline = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST('/api/jobs/{job_id}/trials/{trial_id}/decline', { params: { path }, body: { note } }),
            ),
        onSuccess: async (changed) => {
            queryClient.setQueryData(trialQuery(job.id, trial.id).queryKey, changed);
            await again();
        },
    });
    const open = trial.decision === null;
    useKeys({
        a: () => void (open && advice?.table && !accept.isPending && accept.mutate(null)),
        d: () => void (open && setMode('decline')),
    });
    if (!advice) return null;
    if (trial.decision) return <Decided trial={trial} />;
    const changes = advice.changes.map((change) => ({
        index: change.index,
        to: parseNumber(own[change.index.join()] ?? String(change.to)),
    }));
    const complete = changes.every((change) => change.to !== null);
    const error = accept.error ?? decline.error;
    return (
        <Stack spacing={1.25} sx={{ mt: 1.5 }}>
            {mode === 'change' && (
                <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap' }}>
                    {advice.changes.map((change) => (
                        <TextField
                            key={change.index.join()}
                            label={`New value at ${formatNumber(toShown(change.at[0] ?? 0, '°C', job.units), 0)}`}
                            value={own[change.index.join()] ?? String(change.to)}
                            onChange={(event) => setOwn({ ...own, [change.index.join()]: event.target.value })}
                            error={parseNumber(own[change.index.join()] ?? String(change.to)) === null}
                            slotProps={{ htmlInput: { inputMode: 'decimal' } }}
                        />
                    ))}
                </Stack>
            )}
            {mode !== 'look' && (
                <TextField
                    label={mode === 'change' ? 'Note' : advice.table ? 'Why not' : 'What was done or found'}
                    value={note}
                    onChange={(event) => setNote(event.target.value)}
                    autoFocus
                    fullWidth
                />
            )}
            {error && <ProblemNote error={error} />}
            {advice.measured.length > 0 && mode !== 'decline' && (
                <FormControlLabel
                    control={<Checkbox checked={along} onChange={(_, on) => setAlong(on)} />}
                    label="Take what was measured along: each was observed by itself"
                />
            )}
            <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap', '& .MuiButton-root': { minHeight: 44, px: 2.5 } }}>
                {advice.table && mode !== 'decline' && (
                    <Button
                        variant="contained"
                        disabled={accept.isPending || !complete}
                        onClick={() =>
                            accept.mutate(mode === 'change' ? (changes as { index: number[]; to: number }[]) : null)
                        }
                    >
                        {mode === 'change' ? 'Accept with these values' : 'Accept'}
                    </Button>
                )}
                {advice.table && mode === 'look' && (
                    <Button variant="outlined" onClick={() => setMode('change')}>
                        Change the values
                    </Button>
                )}
                {mode === 'decline' ? (
                    <Button
                        variant="contained"
                        disabled={decline.isPending || note.trim() === ''}
                        onClick={() => decline.mutate()}
                    >
                        {advice.table ? 'Decline' : 'Write it down'}
                    </Button>
                ) : (
                    <Button variant="outlined" onClick={() => setMode('decline')}>
                        {advice.table ? 'Decline with a note' : 'Note what was done'}
                    </Button>
                )}
                {mode !== 'look' && <Button onClick={() => setMode('look')}>Back</Button>}
            </Stack>
        </Stack>
    );
}

function Decided({ trial }: { trial: Trial }) {
    const { job } = useJob();
    const { decision } = trial;
    if (!decision) return null;
    const isCheck = trial.advice[0]?.table === null;
    return (
        <Stack direction="row" sx={{ mt: 1.5, gap: 2, alignItems: 'center', flexWrap: 'wrap' }}>
            <Typography sx={{ fontWeight: 650 }}>
                {decision.kind === 'accepted'
                    ? `Accepted: it is revision ${decision.revision ?? ''} now.`
                    : isCheck
                      ? 'Noted.'
                      : 'Declined.'}{' '}
                {decision.note}
            </Typography>
            <Button component={Link} to={`/jobs/${job.id}/record`} variant="contained" sx={{ minHeight: 44 }}>
                Record the next start
            </Button>
            {decision.kind === 'accepted' && (
                <Button component={Link} to={`/jobs/${job.id}/ladder`}>
                    See the ladder
                </Button>
            )}
        </Stack>
    );
}

