import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import type { Schemas } from '../../api/client';
import { LivePanel, useLive, WatchList } from '../../parts/live';
import { Loading } from '../../parts/Loading';
import { WithMargin } from '../../parts/Margin';
import { ProblemNote } from '../../parts/ProblemNote';
import { useJob } from '../../parts/jobContext';
import { inUnits } from '../../units/said';
import { sheetQuery } from './api';
import { SetupForm } from './SetupForm';
import { StepCard } from './StepCard';
import { StepList } from './StepList';

/** Parts of the sheet at which something turns. */
const WATCHED = new Set(['start', 'first_minute', 'run_in']);
const OIL = ['rpm', 'oil_pressure_kpa', 'battery_v'] as const;
const RUNNING = ['rpm', 'oil_pressure_kpa', 'fuel_pressure_kpa', 'lambda'] as const;

/** Station 7: one step at a time, large, with the next in sight. */
export function FirstStartPage() {
    const { job } = useJob();
    const sheet = useQuery(sheetQuery(job.id));
    const [looked, setLooked] = useState<string | null>(null);
    const live = useLive();
    if (!sheet.data) return sheet.error ? <ProblemNote error={sheet.error} /> : <Loading what="Opening the run sheet" />;
    const { steps, current, stop, gates } = sheet.data;
    const place = steps.findIndex(({ key }) => key === (looked ?? current));
    const step = steps[place];
    const following = steps.slice(place + 1).find(({ closed }) => !closed);
    return (
        <WithMargin follows margin={<StepList sheet={sheet.data} chosen={step?.key ?? null} onChoose={setLooked} />}>
            <Box sx={{ maxWidth: 720, mx: 'auto' }}>
                {stop && <StopBanner sentence={stop} />}
                {live?.view.state && WATCHED.has(step?.part ?? '') && <WatchList lines={live.view.state.watch} />}
                {step ? (
                    <>
                        <StepCard key={step.key} step={step} live={live} outcomes={sheet.data.outcomes} number={place + 1} count={steps.length} onDone={() => setLooked(null)} />
                        <Typography variant="body2" sx={{ mt: 2, fontSize: '1rem' }}>
                            {following ? (
                                <>
                                    Then: <b>{following.title}</b>
                                </>
                            ) : (
                                'This is the last open step.'
                            )}
                        </Typography>
                    </>
                ) : (
                    <Finished />
                )}
                <LivePanel fresh={Boolean(sheet.data.setup.fresh)} channels={step?.part === 'oil' ? OIL : RUNNING} />
                <GateRisks gates={gates} />
                <SetupForm setup={sheet.data.setup} />
                <Button component={Link} to={`/jobs/${job.id}/first-start/print`} sx={{ mt: 1 }}>
                    The sheet for paper
                </Button>
            </Box>
        </WithMargin>
    );
}

/** What holds the sheet, in large type. */
function StopBanner({ sentence }: { sentence: string }) {
    const { job } = useJob();
    return (
        <Box role="alert" sx={{ border: 3, borderColor: 'error.main', p: 2, mb: 2, bgcolor: 'background.paper' }}>
            <Typography sx={{ fontSize: { xs: '1.25rem', md: '1.5rem' }, fontWeight: 700, color: 'error.main' }}>{inUnits(sentence, job.units)}</Typography>
            <Typography sx={{ mt: 1 }}>Mend it, then do this step again.</Typography>
        </Box>
    );
}

/** All steps are done. */
function Finished() {
    const { job } = useJob();
    return (
        <Box sx={{ mb: 2 }}>
            <Typography variant="h1" sx={{ mb: 1 }}>
                The first start is on record
            </Typography>
            <Typography sx={{ mb: 2 }}>Every step is done, or skipped with its reason. Next, make the warm idle true.</Typography>
            <Button variant="contained" size="large" component={Link} to={`/jobs/${job.id}/hot-idle`}>
                Go to the hot idle
            </Button>
        </Box>
    );
}

/** Gates that are not open, and what each missing one risks. */
function GateRisks({ gates }: { gates: Schemas['GateRiskOut'][] }) {
    const { job } = useJob();
    if (!gates.length) return null;
    return (
        <Box component="section" aria-label="Gates" sx={{ mt: 3 }}>
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                Not open yet
            </Typography>
            {gates.map((gate, i) => (
                <Box key={`${gate.key}${gate.sentence}`} sx={{ borderTop: 1, borderColor: 'divider', py: 1 }}>
                    {gate.risk !== gates[i - 1]?.risk && <Typography sx={{ fontWeight: 650 }}>{gate.risk}</Typography>}
                    <Typography variant="body2">{inUnits(gate.sentence, job.units)}</Typography>
                </Box>
            ))}
        </Box>
    );
}
