import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { client, unwrap, type ControllerProfile, type Schemas, type WiringVocabulary } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { Choice } from '../../parts/Choice';
import { ReasonBox } from '../../parts/ReasonBox';
import { Sentences } from '../../parts/Sentences';
import { ConnectorFace } from './ConnectorFace';
import { PinMargin } from './PinMargin';

import { SaveHead } from './SaveHead';
import type { WiringWork } from './useWiring';
import { inUnits } from '../../units/said';

interface Props {
    work: WiringWork;
    words: WiringVocabulary;
    controllers: Schemas['ControllerOut'][];
    profile: ControllerProfile;
}

const SHORT: Record<string, string> = {
    supply: '12 V',
    sensor_supply: '5 V',
    sensor_ground: 'Sensor ground',
    power_ground: 'Power ground',
};

/** The controller's connectors with every function in its place. */
export function PlanSheet({ work, words, controllers, profile }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [selected, setSelected] = useState<string | null>(null);
    const { plan, wiring } = work;
    const options = Object.fromEntries([
        ...(wiring.number ? [['saved', `${wiring.profile.name}, as in plan ${wiring.number}`] as const] : []),
        ...controllers.map((entry) => [entry.key, `${entry.library_id === null ? '' : 'Own: '}${entry.profile.name}`] as const),
    ]);
    const reason = useMutation({
        mutationFn: (text: string) =>
            unwrap(client.POST('/api/jobs/{job_id}/wiring/reason', { params: { path: { job_id: job.id } }, body: { reason: text } })),
        onSuccess: () => refresh(queryClient, job.id, 'wiring'),
    });
    const later = plan.functions.filter((entry) => entry.importance === 'later').length;
    const byHand = plan.allocation.placed.filter((entry) => entry.by_hand).length;
    return (
        <WithMargin margin={<PinMargin pin={profile.pins.find((pin) => pin.name === selected)} work={work} words={words} />}>
            <SaveHead title="Wiring plan" work={work}>
                <Choice label="Controller" value={options[work.controller] ? work.controller : ''} onChange={work.setController} options={options} width={330} />
            </SaveHead>
            <Sentences sentences={plan.sentences} level={plan.level} />
            {plan.remedy && (
                <Alert
                    icon={false}
                    variant="outlined"
                    sx={{ mb: 2, color: 'text.primary', bgcolor: 'background.paper', borderColor: 'primary.main' }}
                    action={
                        <Button variant="contained" size="small" onClick={() => plan.remedy && work.replaceFitting(plan.remedy.fitting)}>
                            Change it so
                        </Button>
                    }
                >
                    <Typography sx={{ fontWeight: 650 }}>The cheapest change that gives everything a pin</Typography>
                    {plan.remedy.changes.map((change) => (
                        <Typography key={change.key} variant="body2">
                            {inUnits(change.sentence)}
                        </Typography>
                    ))}
                    {plan.others.length > 0 && (
                        <Box component="details" sx={{ mt: 1 }}>
                            <Typography component="summary" variant="body2" sx={{ cursor: 'pointer' }}>
                                {plan.others.length === 1 ? 'Another change does, too' : `${plan.others.length} other changes do, too`}
                            </Typography>
                            {plan.others.map((other) => (
                                <Stack key={other.changes.map((change) => change.key).join()} direction="row" sx={{ gap: 1, mt: 0.75, alignItems: 'center' }}>
                                    <Typography variant="body2" sx={{ flex: 1 }}>
                                        {inUnits(other.changes.map((change) => change.sentence).join(' '))}
                                    </Typography>
                                    <Button size="small" onClick={() => work.replaceFitting(other.fitting)}>
                                        Rather so
                                    </Button>
                                </Stack>
                            ))}
                        </Box>
                    )}
                </Alert>
            )}
            {profile.connectors.map((connector) => (
                <ConnectorFace
                    key={connector.name}
                    connector={connector}
                    pins={profile.pins.filter((pin) => pin.connector === connector.name)}
                    plan={plan}
                    selected={selected}
                    onSelect={setSelected}
                    shared={words.shared}
                    titles={SHORT}
                    changed={new Set(work.changes.map((change) => change.key))}
                />
            ))}
            <Stack direction="row" sx={{ gap: 2, flexWrap: 'wrap', alignItems: 'center' }}>
                <Typography variant="body2">
                    {plan.allocation.placed.length} of {plan.functions.length} functions placed
                    {byHand > 0 && `, ${byHand} by hand`}
                    {later > 0 && `, ${later} kept for later`}; {plan.allocation.spare.length} pins spare.
                </Typography>
                {byHand > 0 && (
                    <Button size="small" onClick={work.freeAll}>
                        Compute them all
                    </Button>
                )}
                <Link to={`/jobs/${job.id}/wiring/fitted`}>What is fitted</Link>
                <Link to={`/jobs/${job.id}/wiring/list`}>Wiring list</Link>
            </Stack>
            {wiring.number === 0 && (
                <Box sx={{ mt: 2 }}>
                    {wiring.reason ? (
                        <Typography variant="body2">No plan needed: {wiring.reason}</Typography>
                    ) : (
                        <ReasonBox
                            title="The car is wired already"
                            label="Why no plan is needed"
                            button="Write it down"
                            pending={reason.isPending}
                            error={reason.error}
                            onWrite={(text) => reason.mutate(text)}
                        />
                    )}
                </Box>
            )}
        </WithMargin>
    );
}
