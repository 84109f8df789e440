import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { Mark, type State } from '../../parts/Mark';
import { inUnits } from '../../units/said';
import { ReasonBox } from '../../parts/ReasonBox';

const MARKS: Record<Schemas['Point']['state'], State> = { good: 'pass', attention: 'suspicious', stop: 'fail', missing: 'not_read', stale: 'not_read' };
const WORDS: Record<Schemas['Point']['state'], string> = { good: 'true', attention: 'look at it', stop: 'not true', missing: 'to be read', stale: 'read again' };
const SHEETS: Record<string, string> = { stop: '', return: 'return', sweep: 'sweep', hunting: 'steady', air: 'air' };

/** The one verdict, and every condition with the sheet that answers it. */
export function VerdictMargin({ idle }: { idle: Schemas['IdleOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const write = useMutation({
        mutationFn: (reason: string) => unwrap(client.POST('/api/jobs/{job_id}/idle/reason', { params: { path: { job_id: job.id } }, body: { reason } })),
        onSuccess: () => refresh(queryClient, job.id, 'idle'),
    });
    return (
        <>
            <Typography variant="h2" sx={{ mb: 1 }}>
                {idle.is_true ? 'The warm idle is true' : 'The warm idle is not proven yet'}
            </Typography>
            {!idle.is_true && (
                <Typography variant="body2" sx={{ mb: 1.5 }}>
                    Nothing in the cold tables means anything before it.
                </Typography>
            )}
            {idle.points.map((point) => (
                <Box key={point.key} sx={{ borderTop: 1, borderColor: 'divider', py: 1 }}>
                    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', justifyContent: 'space-between' }}>
                        <Typography component={Link} to={`/jobs/${job.id}/hot-idle/${SHEETS[point.key] ?? 'air'}`} sx={{ fontWeight: 650, color: 'text.primary' }}>
                            {point.title}
                        </Typography>
                        <Box sx={{ display: 'inline-flex', gap: 0.75, alignItems: 'center', whiteSpace: 'nowrap' }}>
                            <Mark state={MARKS[point.state]} word={false} />
                            <Typography variant="body2" component="span">
                                {WORDS[point.state]}
                                {!point.needed && ', may wait'}
                            </Typography>
                        </Box>
                    </Box>
                    <Typography variant="body2">{inUnits(point.sentence, job.units)}</Typography>
                </Box>
            ))}
            {idle.gate.reason ? (
                <Typography variant="body2" sx={{ mt: 1.5 }}>
                    The ladder goes on all the same: {idle.gate.reason}
                </Typography>
            ) : (
                idle.is_refused && (
                    <Box sx={{ mt: 1.5 }}>
                        <ReasonBox title="Go on all the same" label="Why this is right here" button="Write it down" pending={write.isPending} error={write.error} onWrite={write.mutate} />
                    </Box>
                )
            )}
        </>
    );
}
