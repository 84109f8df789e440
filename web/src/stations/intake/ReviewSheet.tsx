import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';

import { client, unwrap, type Calibration, type Schemas } from '../../api/client';
import { calibrationQuery } from '../../api/calibration';
import { refresh } from '../../api/refresh';
import { reviewQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { inUnits } from '../../units/said';
import { formatNumber } from '../../units/units';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { ReasonBox } from '../../parts/ReasonBox';
import { PlacePicture } from './PlacePicture';

type Finding = Schemas['TableFindingOut'];

const COLOURS: Record<Finding['severity'], string> = { stop: 'error.main', attention: 'warning.main', note: 'ink.faint' };
const WORDS: Record<Finding['severity'], string> = { stop: 'stop', attention: 'look', note: 'note' };
const VERDICTS: Record<Schemas['CalibrationReviewOut']['verdict'], string> = { sound: 'Sound', repair: 'Repair', start_afresh: 'Start afresh' };

/** What stands out in the calibration that was found, or in the newest one. */
export function ReviewSheet({ inherited }: { inherited: Schemas['InheritedOut'] | null }) {
    const { job } = useJob();
    const revision = inherited?.revision;
    const review = useQuery(reviewQuery(job.id, revision));
    const calibration = useQuery(calibrationQuery(job.id, revision));
    if (!review.data || !calibration.data) {
        const error = review.error ?? calibration.error;
        return error ? <ProblemNote error={error} /> : <Loading what="Looking the calibration over" />;
    }
    return <Reviewed key={review.data.revision} review={review.data} calibration={calibration.data} inherited={inherited} />;
}

interface Props {
    review: Schemas['CalibrationReviewOut'];
    calibration: Calibration;
    inherited: Schemas['InheritedOut'] | null;
}

function Reviewed({ review, calibration, inherited }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [chosen, setChosen] = useState<string | null>(null);
    const accept = useMutation({
        mutationFn: ({ identifier, reason }: { identifier: string; reason: string }) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/table-bench/accept', {
                    params: { path: { job_id: job.id } },
                    body: { revision: review.revision, tables: {}, identifier, reason },
                }),
            ),
        onSuccess: () => refresh(queryClient, job.id, 'intake', 'tables', 'injectors'),
    });
    const selected = review.findings.find(({ identifier }) => identifier === chosen) ?? review.findings[0];
    return (
        <WithMargin
            follows
            margin={
                selected?.table ? (
                    <PlacePicture finding={selected} calibration={calibration} />
                ) : (
                    <Typography variant="body2">{selected ? 'This is not about a table.' : 'Nothing to show.'}</Typography>
                )
            }
        >
            <Typography variant="h1">
                Review of revision {review.revision}
                {inherited ? ', as found' : ''}
            </Typography>
            <Box role="status" sx={{ borderLeft: 6, borderColor: review.verdict === 'sound' ? 'primary.main' : review.verdict === 'repair' ? 'warning.main' : 'error.main', pl: 1.5, my: 1.5 }}>
                <Typography variant="h2">{VERDICTS[review.verdict]}</Typography>
                <Typography>{inUnits(review.sentence)}</Typography>
                <Typography variant="body2" color="text.secondary">
                    {review.looked_at.length ? `${review.looked_at.length} tables were found and looked at; ` : ''}
                    {formatNumber(100 * review.affected_share, 1)} % of the cells are affected.
                </Typography>
            </Box>
            {inherited && <Decision inherited={inherited} verdict={review.verdict} />}
            <Stack component="ol" spacing={1} sx={{ listStyle: 'none', m: 0, p: 0, mt: 1.5 }}>
                {review.findings.map((finding) => {
                    const here = finding.identifier === selected?.identifier;
                    return (
                        <Box
                            component="li"
                            key={finding.identifier}
                            sx={{ borderLeft: 4, borderColor: finding.accepted ? 'divider' : COLOURS[finding.severity], bgcolor: here ? 'background.paper' : 'transparent', pl: 1.5, py: 0.5 }}
                        >
                            <Button size="small" aria-pressed={here} onClick={() => setChosen(finding.identifier)} sx={{ p: 0, minWidth: 0, fontSize: '1rem' }}>
                                {finding.title}
                                <Box component="span" sx={{ ml: 1, fontWeight: 500, fontSize: '0.9rem', color: finding.accepted ? 'text.secondary' : COLOURS[finding.severity] }}>
                                    {finding.accepted ? 'accepted' : WORDS[finding.severity]}
                                </Box>
                            </Button>
                            <Typography variant="body2">{inUnits(finding.sentence)}</Typography>
                            {finding.accepted ? (
                                <Typography variant="caption">
                                    {finding.accepted_by}: {finding.accepted}
                                </Typography>
                            ) : (
                                here && (
                                    <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap' }}>
                                        {finding.table && (
                                            <Button size="small" component={Link} to={`/jobs/${job.id}/base-maps/tables/${calibration.settings[finding.table] ? 'settings' : finding.table}`}>
                                                Open on the table bench
                                            </Button>
                                        )}
                                        <ReasonBox title="Accept it" label="Why it is right" button="Accept" pending={accept.isPending} error={accept.error} onWrite={(reason) => accept.mutate({ identifier: finding.identifier, reason })} />
                                    </Stack>
                                )
                            )}
                        </Box>
                    );
                })}
            </Stack>
        </WithMargin>
    );
}

function Decision({ inherited, verdict }: { inherited: Schemas['InheritedOut']; verdict: Schemas['CalibrationReviewOut']['verdict'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const navigate = useNavigate();
    const [note, setNote] = useState('');
    const decide = useMutation({
        mutationFn: (decision: 'repair' | 'start_afresh') =>
            unwrap(client.POST('/api/jobs/{job_id}/inherited/decision', { params: { path: { job_id: job.id } }, body: { decision, note } })),
        onSuccess: async ({ decision }) => {
            await refresh(queryClient, job.id, 'intake', 'tables', 'injectors');
            await navigate(`/jobs/${job.id}/base-maps${decision === 'repair' ? '/tables/ve' : ''}`);
        },
    });
    if (inherited.decision) {
        return (
            <Typography>
                Decided: <b>{inherited.decision === 'repair' ? 'repair it' : 'start afresh'}</b>
                {inherited.decision_note && ` – ${inherited.decision_note}`}
            </Typography>
        );
    }
    return (
        <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap', alignItems: 'center' }}>
            <TextField label="Why (stays in the record)" value={note} onChange={(event) => setNote(event.target.value)} sx={{ flex: '1 1 220px' }} />
            <Button variant={verdict === 'start_afresh' ? 'outlined' : 'contained'} disabled={decide.isPending} onClick={() => decide.mutate('repair')}>
                {verdict === 'sound' ? 'Work on with it' : 'Repair it'}
            </Button>
            <Button variant={verdict === 'start_afresh' ? 'contained' : 'outlined'} disabled={decide.isPending} onClick={() => decide.mutate('start_afresh')}>
                Start afresh
            </Button>
            {decide.error && <ProblemNote error={decide.error} />}
        </Stack>
    );
}
