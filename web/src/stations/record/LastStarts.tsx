import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import { trialQuery, trialsQuery } from '../../api/logbook';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { moment } from '../../parts/when';
import { inUnits } from '../../units/said';
import { formatNumber, shownUnit, toShown } from '../../units/units';

/** So many of the newest starts are shown beside the next one. */
const SHOWN = 3;

/** What the last starts were, and what the next one is to show. */
export function LastStarts() {
    const { job } = useJob();
    const trials = useQuery(trialsQuery(job.id)).data;
    if (!trials?.length) return null;
    return (
        <Box component="section" aria-label="Last starts" sx={{ mt: 4, maxWidth: 820 }}>
            <Typography variant="h2" gutterBottom>
                The last starts
            </Typography>
            <Box component="ol" sx={{ listStyle: 'none', p: 0, m: 0 }}>
                {trials.slice(0, SHOWN).map((trial) => (
                    <Box component="li" key={trial.id} sx={{ display: 'grid', gridTemplateColumns: '5.5rem 4.5rem 1fr', gap: 1, py: 0.75, borderTop: 1, borderColor: 'divider' }}>
                        <Link to={`/jobs/${job.id}/trials/${trial.id}`}>Trial {trial.number}</Link>
                        <Box component="span" sx={{ fontFamily: mono }}>
                            {formatNumber(toShown(trial.coolant_c, '°C', job.units), 0)} {shownUnit('°C', job.units)}
                        </Box>
                        <div>
                            <Typography>{inUnits(trial.sentence, job.units)}</Typography>
                            <Typography variant="body2" color="text.secondary">
                                {moment(trial.created_at)} on revision {trial.revision}
                                {trial.decision?.kind === 'accepted' && trial.decision.revision !== null && `; its advice became revision ${trial.decision.revision}`}
                            </Typography>
                        </div>
                    </Box>
                ))}
            </Box>
            <ToShow trialId={trials[0]?.id ?? 0} />
        </Box>
    );
}

/** What the next start is to show of the last advice. */
function ToShow({ trialId }: { trialId: number }) {
    const { job } = useJob();
    const advice = useQuery(trialQuery(job.id, trialId)).data?.advice[0];
    if (!advice) return null;
    return (
        <Typography sx={{ mt: 1 }}>
            <b>What would prove the last advice wrong:</b> {inUnits(advice.disproof, job.units)}
        </Typography>
    );
}
