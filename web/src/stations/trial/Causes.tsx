import Box from '@mui/material/Box';
import MuiLink from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import type { Trial } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { capitalised } from '../../parts/words';
import { inUnits } from '../../units/said';

/** What the job's logs say of the causes: how likely each is, why, and the test that decides. */
export function Causes({ trial }: { trial: Trial }) {
    if (trial.causes.length === 0) return null;
    return (
        <section aria-label="Causes">
            <Typography variant="h2" gutterBottom>
                Is it a table at all?
            </Typography>
            <Box component="ol" sx={{ listStyle: 'none', p: 0, m: 0, maxWidth: 760 }}>
                {trial.causes.map((candidate) => (
                    <Candidate key={candidate.key} candidate={candidate} />
                ))}
            </Box>
            <Alike trial={trial} />
            {trial.deciding_test && (
                <Typography sx={{ mt: 1 }}>
                    <b>What decides it:</b> {trial.deciding_test}
                </Typography>
            )}
            <NotTold causes={trial.not_told} />
        </section>
    );
}

/** So many causes are named in one sentence. */
const NAMED = 3;

/** What looks the same in these logs as the leading candidate. */
function Alike({ trial }: { trial: Trial }) {
    const { alike } = trial;
    if (alike.length === 0) return null;
    const more = alike.length - NAMED;
    return (
        <Typography sx={{ mt: 1 }}>
            <b>Not told apart by this log:</b> {alike.slice(0, NAMED).join('; ')}
            {more > 0 && `; and ${more} more above`}.
        </Typography>
    );
}

function Candidate({ candidate }: { candidate: Trial['causes'][number] }) {
    const { job } = useJob();
    const percent = Math.round(100 * candidate.probability);
    return (
        <Box component="li" sx={{ display: 'grid', gridTemplateColumns: '56px 1fr', gap: 1, py: 0.5 }}>
            <Box component="span" sx={{ fontFamily: mono, textAlign: 'right', fontWeight: candidate.leads ? 700 : 400 }}>
                {percent} %
            </Box>
            <div>
                <Typography sx={{ fontWeight: candidate.leads ? 650 : 400 }}>{capitalised(candidate.title)}</Typography>
                <Box aria-hidden sx={{ height: 4, width: `${percent}%`, bgcolor: candidate.leads ? 'primary.main' : 'ink.rule' }} />
                {candidate.evidence.map((sentence) => (
                    <Typography key={sentence} variant="body2">
                        {inUnits(sentence, job.units)}
                    </Typography>
                ))}
            </div>
        </Box>
    );
}

function NotTold({ causes }: { causes: Trial['not_told'] }) {
    const [open, setOpen] = useState(false);
    if (causes.length === 0) return null;
    return (
        <Box sx={{ mt: 1 }}>
            <MuiLink component="button" type="button" onClick={() => setOpen(!open)} aria-expanded={open}>
                {causes.length} causes this log cannot tell{open ? '' : ', and what would'}
            </MuiLink>
            {open && (
                <Box component="ul" sx={{ mt: 0.5, mb: 0, pl: 2.5 }}>
                    {causes.map((cause) => (
                        <li key={cause.title}>
                            <Typography variant="body2">
                                {capitalised(cause.title)}: {cause.do}
                            </Typography>
                        </li>
                    ))}
                </Box>
            )}
        </Box>
    );
}
