import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState, type ChangeEvent } from 'react';
import { Link } from 'react-router';

import type { Job, Schemas } from '../../api/client';
import { jobsQuery, PAGE, type BoardPart } from '../../api/jobs';
import { readyQuery } from '../../api/mornings';
import { inUnits } from '../../units/said';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { describeEngine } from '../../parts/describeEngine';
import { ProvenScale } from './ProvenScale';
import { Tour } from './Tour';

/** The jobs of the shop, each with its next action and what is closed until then. */
export function BoardPage() {
    const [part, setPart] = useState<BoardPart>({ search: '', aside: false, offset: 0 });
    const jobs = useQuery(jobsQuery(part));
    if (jobs.isPending) return <Loading what="Fetching the jobs" />;
    const isPlain = !part.search && !part.aside && part.offset === 0;
    return (
        <Box sx={{ p: { xs: 2, md: 4 }, width: '100%', maxWidth: 1240, mx: 'auto' }}>
            <Tour />
            <BoardHead part={part} onPart={setPart} />
            {jobs.isError && <ProblemNote error={jobs.error} />}
            {jobs.data?.length === 0 && <Typography>{isPlain ? NO_JOB : 'There is none like that.'}</Typography>}
            {jobs.data && jobs.data.length > 0 && <Jobs jobs={jobs.data.slice(0, PAGE)} />}
            <Pages part={part} more={(jobs.data?.length ?? 0) > PAGE} onPart={setPart} />
        </Box>
    );
}

const NO_JOB =
    'No job yet. A job is one vehicle: enter what is known of its engine, and the start tables are computed from it.';

interface PartProps {
    part: BoardPart;
    onPart: (part: BoardPart) => void;
}

/** What is shown of the shop, and the ways on from here. */
function BoardHead({ part, onPart }: PartProps) {
    return (
        <Stack direction="row" sx={{ alignItems: 'center', mb: 2, gap: 2, flexWrap: 'wrap' }}>
            <Typography variant="h1" sx={{ flex: 1, minWidth: 200 }}>
                {part.aside ? 'Put aside' : 'Shop board'}
            </Typography>
            <Find text={part.search} onText={(search) => onPart({ ...part, search, offset: 0 })} />
            <Button onClick={() => onPart({ search: '', aside: !part.aside, offset: 0 })}>{part.aside ? 'Back to the board' : 'Those put aside'}</Button>
            <Button component={Link} to="/trainer" size="large">
                Trainer
            </Button>
            <Button component={Link} to="/jobs/new" variant="contained" size="large">
                New job
            </Button>
        </Stack>
    );
}

/** A plain field: the board is what is fetched first, and a field with everything weighs as much as the board. */
function Find({ text, onText }: { text: string; onText: (text: string) => void }) {
    return (
        <Box
            component="input"
            type="search"
            aria-label="Find a job"
            placeholder="Find a job"
            value={text}
            onChange={(event: ChangeEvent<HTMLInputElement>) => onText(event.target.value)}
            sx={{ font: 'inherit', color: 'text.primary', bgcolor: 'background.paper', border: 1, borderColor: 'ink.rule', borderRadius: 1, height: 44, px: 1.5, width: 190 }}
        />
    );
}

/** On to the next page of a long board, and back. */
function Pages({ part, more, onPart }: PartProps & { more: boolean }) {
    if (!more && part.offset === 0) return null;
    return (
        <Stack direction="row" sx={{ gap: 1, mt: 1.5 }}>
            <Button disabled={part.offset === 0} onClick={() => onPart({ ...part, offset: Math.max(0, part.offset - PAGE) })}>
                Newer
            </Button>
            <Button disabled={!more} onClick={() => onPart({ ...part, offset: part.offset + PAGE })}>
                Older
            </Button>
        </Stack>
    );
}

function Jobs({ jobs }: { jobs: Job[] }) {
    const ready = useQuery(readyQuery).data ?? [];
    return (
        <Box sx={{ overflowX: 'auto', bgcolor: 'background.paper', border: 1, borderColor: 'divider' }}>
            <Table>
                <TableHead>
                    <TableRow>
                        <TableCell>Job</TableCell>
                        <TableCell>Next action</TableCell>
                        <TableCell>Closed gate</TableCell>
                        <TableCell sx={{ whiteSpace: 'nowrap' }}>Cold from</TableCell>
                        <TableCell sx={{ whiteSpace: 'nowrap' }}>Proven</TableCell>
                        <TableCell align="right">Trials</TableCell>
                        <TableCell align="right">Revision</TableCell>
                    </TableRow>
                </TableHead>
                <TableBody>
                    {jobs.map((job) => (
                        <JobRow key={job.id} job={job} ready={ready.find((r) => r.job_id === job.id)} />
                    ))}
                </TableBody>
            </Table>
        </Box>
    );
}

type Ready = Schemas['ReadyOut'];

/** When an engine is cold enough for a true cold start. */
function readyWords(ready: Ready): string {
    const at = new Date(ready.at);
    if (at <= new Date()) return 'now';
    return at.toLocaleString('en-GB', { weekday: 'short', hour: '2-digit', minute: '2-digit' });
}

function JobRow({ job, ready }: { job: Job; ready: Ready | undefined }) {
    return (
        <TableRow sx={{ verticalAlign: 'top', '& td': { py: 1.75, borderTop: 1, borderColor: 'divider' } }}>
            <TableCell sx={{ width: '26%' }}>
                <Typography
                    component={Link}
                    to={`/jobs/${job.id}`}
                    sx={{ fontWeight: 650, color: 'primary.main', display: 'inline-block', py: 0.25 }}
                >
                    {job.name}
                </Typography>
                <Typography variant="body2" color="text.secondary">
                    {describeEngine(job)}
                </Typography>
                {job.note && (
                    <Typography variant="body2" sx={{ mt: 0.5 }}>
                        {job.note}
                    </Typography>
                )}
            </TableCell>
            <TableCell sx={{ width: '27%' }}>
                <Typography sx={{ fontWeight: 600 }}>{inUnits(job.next_action.sentence, job.units)}</Typography>
            </TableCell>
            <TableCell sx={{ width: '22%' }}>
                <Typography variant="body2" color={job.next_action.kind === 'mend' ? 'warning' : 'text.primary'}>
                    {inUnits(job.next_action.gate, job.units) || 'none'}
                </Typography>
            </TableCell>
            <TableCell sx={{ whiteSpace: 'nowrap' }}>
                <Typography variant="body2">{ready ? readyWords(ready) : '–'}</Typography>
            </TableCell>
            <TableCell sx={{ whiteSpace: 'nowrap' }}>
                <ProvenScale job={job} />
            </TableCell>
            <TableCell align="right">{job.trials}</TableCell>
            <TableCell align="right">{job.revision}</TableCell>
        </TableRow>
    );
}
