import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { client, unwrap, type Capture, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { capturesQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { Caution } from '../../parts/Caution';
import { Facts } from '../../parts/Facts';
import { Mark } from '../../parts/Mark';
import { ReasonBox } from '../../parts/ReasonBox';
import { Sentences } from '../../parts/Sentences';
import { moment } from '../../parts/when';
import { CaptureForm } from './CaptureForm';
import { CompressionBars } from './CompressionBars';
import { Ribbon } from './Ribbon';
import { inUnits } from '../../units/said';

const MARKS = { good: 'pass', attention: 'suspicious', stop: 'fail' } as const;
const CAUTION =
    'Ignition and injection disabled, their fuses out; gearbox in neutral; hands, sleeves and leads away from fans and belts. Short cranking only, charger on. Local codes and licensed practice come first.';

/** Crank, capture, and see whether the controller knows where the crankshaft is. */
export function CaptureSheet({ trigger }: { trigger: Schemas['TriggerOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const captures = useQuery(capturesQuery(job.id));
    const [chosen, setChosen] = useState<number | null>(null);
    const reason = useMutation({
        mutationFn: (text: string) => unwrap(client.POST('/api/jobs/{job_id}/trigger/reason', { params: { path: { job_id: job.id } }, body: { reason: text } })),
        onSuccess: () => refresh(queryClient, job.id, 'trigger'),
    });
    const all = captures.data ?? [];
    const shown = all.find((entry) => entry.number === chosen) ?? all[0];
    return (
        <WithMargin
            margin={
                <>
                    <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                        Gate of the first start
                    </Typography>
                    <Typography sx={{ color: trigger.gate.is_open ? 'primary.main' : trigger.gate.is_refused ? 'error.main' : 'warning.main', fontWeight: 650 }}>
                        {trigger.gate.is_open ? 'Open' : 'Closed'}
                    </Typography>
                    <Typography variant="body2" sx={{ mb: 2 }}>
                        {inUnits(trigger.gate.is_open ? trigger.gate.sentence : trigger.gate.closed_until)}
                    </Typography>
                    {shown && (
                        <Facts
                            title={`Capture ${shown.number}`}
                            facts={[
                                { name: 'Speed', value: shown.speed_rpm, unit: 'rpm', decimals: 0 },
                                { name: 'Teeth followed', value: shown.teeth, unit: '', decimals: 0 },
                                { name: 'Teeth missed', value: shown.lost, unit: '', decimals: 0 },
                                { name: 'Edges that are none', value: shown.extra, unit: '', decimals: 0 },
                                ...(shown.cam
                                    ? [
                                          { name: 'Cam edges in a cycle', value: shown.cam.edges_per_cycle, unit: '', decimals: 1 },
                                          { name: 'Cam edge wanders', value: shown.cam.jitter_deg, unit: '°', decimals: 1 },
                                      ]
                                    : []),
                            ]}
                        />
                    )}
                    {all.length > 1 && (
                        <>
                            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                                All captures
                            </Typography>
                            {all.map((entry) => (
                                <Box key={entry.number} component="button" type="button" aria-pressed={entry.number === shown?.number} onClick={() => setChosen(entry.number)} sx={{ display: 'block', width: '100%', textAlign: 'left', font: 'inherit', color: 'inherit', bgcolor: entry.number === shown?.number ? 'action.selected' : 'transparent', border: 0, borderBottom: 1, borderColor: 'divider', py: 0.75, cursor: 'pointer' }}>
                                    <Mark state={MARKS[entry.level]} /> <span>{entry.number}</span>
                                    <Typography variant="caption" component="span" sx={{ display: 'block' }}>
                                        {entry.name}, {moment(entry.created_at)}
                                    </Typography>
                                </Box>
                            ))}
                        </>
                    )}
                </>
            }
        >
            <Typography variant="h1" sx={{ mb: 1 }}>
                Edge capture
            </Typography>
            {trigger.number === 0 && (
                <Typography sx={{ mb: 1.5 }}>
                    No wheel is entered yet; a usual one is taken. <Link to={`/jobs/${job.id}/trigger`}>Enter the wheel</Link> first.
                </Typography>
            )}
            {shown && <Result key={shown.number} capture={shown} />}
            <Caution>{CAUTION}</Caution>
            <CaptureForm onDone={() => setChosen(null)} last={all[0]} trigger={trigger.trigger} />
            {!trigger.gate.is_open && trigger.gate.part !== 'timing' && (
                <Box sx={{ mt: 2 }}>
                    <ReasonBox title="Go on without a capture that agrees" label="Why this is safe" button="Write it down" pending={reason.isPending} error={reason.error} onWrite={(text) => reason.mutate(text)} />
                </Box>
            )}
        </WithMargin>
    );
}

function Result({ capture }: { capture: Capture }) {
    return (
        <>
            <Sentences sentences={[capture.sentence, ...(capture.stale ? ['The wheel was changed after this capture: crank again.'] : [])]} level={capture.stale ? 'attention' : capture.level} />
            <Ribbon capture={capture} />
            <CompressionBars compression={capture.compression} />
            <Typography variant="body2" sx={{ mb: 2 }}>
                {capture.origin === 'bench' ? 'Simulated engine, not a real one. ' : ''}
                {capture.reading.join(' ')}
            </Typography>
        </>
    );
}
