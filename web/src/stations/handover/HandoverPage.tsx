import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { Choice } from '../../parts/Choice';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { WithMargin } from '../../parts/Margin';
import { Mark } from '../../parts/Mark';
import { ProblemNote } from '../../parts/ProblemNote';
import { TaskProgress } from '../../parts/TaskProgress';
import { useTask } from '../../parts/useTask';
import { moment } from '../../parts/when';
import { closeCheck, handoverQuery, makeArchive, makePdf, type PaperKey } from './api';
import { ComeBack } from './ComeBack';
import { PaperView } from './PaperView';

const FIRST = 'customer';

/** Station 13: the record that says what is proven, and what is not. */
export function HandoverPage() {
    const { job } = useJob();
    const { part = FIRST } = useParams();
    const found = useQuery(handoverQuery(job.id, part as PaperKey));
    if (!found.data) return found.error ? <ProblemNote error={found.error} /> : <Loading what="Writing the record" />;
    const base = `/jobs/${job.id}/handover`;
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs value={part} aria-label="Papers" variant="scrollable" sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}>
                {Object.entries(found.data.papers).map(([key, label]) => (
                    <Tab key={key} value={key} label={label} component={Link} to={`${base}/${key}`} />
                ))}
            </Tabs>
            <WithMargin
                margin={
                    <>
                        <Closing closing={found.data.closing} />
                        <Archive />
                        <ComeBack parts={found.data.parts} reopening={found.data.reopening} />
                    </>
                }
            >
                <ToPrint paper={part as PaperKey} sizes={found.data.sizes} />
                <PaperView paper={found.data.paper} />
            </WithMargin>
        </Box>
    );
}

/** The paper as PDF, made in the background. */
function ToPrint({ paper, sizes }: { paper: PaperKey; sizes: Record<string, string> }) {
    const { job } = useJob();
    const [size, setSize] = useState<Schemas['PdfIn']['size']>('a4');
    const [digest, setDigest] = useState('');
    const make = useTask<Schemas['PdfIn'], { digest: string }>(
        (body) => makePdf(job.id, body),
        (made) => setDigest(made.digest),
    );
    return (
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', flexWrap: 'wrap', mb: 2 }}>
            <Choice label="Paper" value={size ?? 'a4'} onChange={(value) => setSize(value as typeof size)} options={sizes} width={120} />
            <Button variant="contained" sx={{ minHeight: 44 }} disabled={make.isPending} onClick={() => make.begin({ paper, size })}>
                Make the PDF
            </Button>
            <TaskProgress task={make} label="Making the PDF" />
            {digest && (
                <Button component="a" href={`/api/jobs/${job.id}/handover/pdf/${digest}`} target="_blank" rel="noreferrer" variant="outlined">
                    Open the PDF
                </Button>
            )}
            {make.error && <ProblemNote error={make.error} />}
        </Box>
    );
}

/** The whole job as one file: to keep, to take along, to attach to a question. */
function Archive() {
    const { job } = useJob();
    const [key, setKey] = useState('');
    const make = useTask<null, { key: string }>(
        () => makeArchive(job.id),
        (made) => setKey(made.key),
    );
    return (
        <Box component="section" aria-label="Archive" sx={{ mt: 3 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Archive
            </Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                The whole job in one file, samples and photographs included. Another shop takes it in under New job.
            </Typography>
            <Button variant="outlined" disabled={make.isPending} onClick={() => make.begin(null)}>
                Make the archive
            </Button>
            <TaskProgress task={make} label="Writing the archive" />
            {key && (
                <Button component="a" href={`/api/jobs/${job.id}/archive/${key}`} download sx={{ ml: 1 }}>
                    Save it
                </Button>
            )}
            {make.error && <ProblemNote error={make.error} />}
        </Box>
    );
}

/** Checks before the keys are handed over. */
function Closing({ closing }: { closing: Schemas['ClosingOut'][] }) {
    return (
        <>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Before the keys go
            </Typography>
            {closing.map((entry) => (
                <ClosingRow key={entry.check.key} entry={entry} />
            ))}
        </>
    );
}

function ClosingRow({ entry: { check, done, note, by, at } }: { entry: Schemas['ClosingOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [text, setText] = useState('');
    const close = useMutation({ mutationFn: () => closeCheck(job.id, check.key, text), onSuccess: () => refresh(queryClient, job.id, 'handover') });
    return (
        <Box sx={{ borderTop: 1, borderColor: 'divider', py: 1 }}>
            <Typography sx={{ fontWeight: 650 }}>
                {done && <Mark state="pass" word={false} />} {check.title}
            </Typography>
            <Typography variant="body2">{check.text}</Typography>
            {done ? (
                <Typography variant="caption">
                    {by}, {at ? moment(at) : ''}
                    {note && `: ${note}`}
                </Typography>
            ) : (
                <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
                    <TextField label="Found" value={text} onChange={(event) => setText(event.target.value)} sx={{ flex: 1 }} multiline />
                    <Button variant="outlined" disabled={close.isPending} onClick={() => close.mutate()} aria-label={`Done: ${check.title}`}>
                        Done
                    </Button>
                </Box>
            )}
            {close.error && <ProblemNote error={close.error} />}
        </Box>
    );
}
