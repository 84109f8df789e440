import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { outputTestsQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { parseNumber } from '../../units/units';
import { Caution } from '../../parts/Caution';
import { Loading } from '../../parts/Loading';
import { Mark } from '../../parts/Mark';
import { NumberField } from '../../parts/NumberField';
import { ProblemNote } from '../../parts/ProblemNote';
import { ReasonBox } from '../../parts/ReasonBox';
import { inUnits } from '../../units/said';

type Kind = Schemas['TestedOutput']['kind'];
type Heard = Schemas['OutputTestIn']['heard'];

const KINDS: { kind: Kind; title: string; works: string; caution: string }[] = [
    {
        kind: 'coil',
        title: 'Ignition coils',
        works: 'Sparks',
        caution: 'Ignition voltage can kill, and a spark lights fuel vapour: fuel made safe first, nobody near plug or lead. Local codes and licensed practice come first.',
    },
    {
        kind: 'injector',
        title: 'Injectors',
        works: 'Clicks',
        caution: 'An injector under pressure floods its cylinder and can break the engine: rail without pressure first, no sparks. Local codes and licensed practice come first.',
    },
];

/** A run sheet: each coil and injector commanded once, with fuel and ignition made safe first. */
export function OutputTestsSheet() {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const tests = useQuery(outputTestsQuery(job.id));
    const reason = useMutation({
        mutationFn: (text: string) => unwrap(client.POST('/api/jobs/{job_id}/output-tests/reason', { params: { path: { job_id: job.id } }, body: { reason: text } })),
        onSuccess: () => refresh(queryClient, job.id, 'trigger'),
    });
    if (!tests.data) return tests.error ? <ProblemNote error={tests.error} /> : <Loading what="Opening the run sheet" />;
    const { gate, outputs } = tests.data;
    const done = outputs.filter(({ test }) => test?.passed).length;
    return (
        <WithMargin
            margin={
                <>
                    <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                        Gate of the first start
                    </Typography>
                    <Typography sx={{ color: gate.is_open ? 'primary.main' : gate.is_refused ? 'error.main' : 'warning.main', fontWeight: 650 }}>{gate.is_open ? 'Open' : 'Closed'}</Typography>
                    <Typography variant="body2" sx={{ mb: 2 }}>
                        {inUnits(gate.is_open ? gate.sentence : gate.closed_until)}
                    </Typography>
                    <Typography variant="body2" sx={{ mb: 2 }}>
                        {done} of {outputs.length} answered.
                    </Typography>
                    {!gate.is_open && (
                        <ReasonBox title="Go on without the tests" label="Why this is safe" button="Write it down" pending={reason.isPending} error={reason.error} onWrite={(text) => reason.mutate(text)} />
                    )}
                </>
            }
        >
            <Typography variant="h1" sx={{ mb: 1 }}>
                Output tests
            </Typography>
            <Typography sx={{ mb: 1.5 }}>Command one output at a time from the controller, listen, and watch the battery on a meter.</Typography>
            {KINDS.map((about) => (
                <KindSheet key={about.kind} about={about} outputs={outputs.filter(({ output }) => output.kind === about.kind)} steps={tests.data.safe_first[about.kind] ?? []} />
            ))}
        </WithMargin>
    );
}

interface KindProps {
    about: (typeof KINDS)[number];
    outputs: Schemas['TestedOutputOut'][];
    steps: readonly string[];
}

function KindSheet({ about, outputs, steps }: KindProps) {
    const [ticked, setTicked] = useState<readonly string[]>([]);
    const isSafe = steps.every((step) => ticked.includes(step));
    return (
        <Box component="section" aria-label={about.title} sx={{ mb: 3 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                {about.title}
            </Typography>
            <Caution>{about.caution}</Caution>
            <Typography variant="h3" component="div">
                Made safe first
            </Typography>
            <Stack sx={{ mb: 1 }}>
                {steps.map((step) => (
                    <FormControlLabel
                        key={step}
                        label={step}
                        sx={{ minHeight: 44 }}
                        control={<Checkbox checked={ticked.includes(step)} onChange={(event) => setTicked(event.target.checked ? [...ticked, step] : ticked.filter((entry) => entry !== step))} />}
                    />
                ))}
            </Stack>
            {outputs.map((entry) => (
                <OutputRow key={entry.output.key} entry={entry} works={about.works} isSafe={isSafe} />
            ))}
            {!isSafe && <Typography variant="body2">Tick what was made safe; then results can be written down.</Typography>}
        </Box>
    );
}

function OutputRow({ entry, works, isSafe }: { entry: Schemas['TestedOutputOut']; works: string; isSafe: boolean }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [dip, setDip] = useState('');
    const dipV = parseNumber(dip);
    const isNonsense = dip.trim() !== '' && dipV === null;
    const add = useMutation({
        mutationFn: (heard: Heard) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/output-tests', {
                    params: { path: { job_id: job.id } },
                    body: { output: entry.output.key, heard, dip_v: dipV, made_safe: isSafe, note: '' },
                }),
            ),
        onSuccess: () => {
            setDip('');
            return refresh(queryClient, job.id, 'trigger');
        },
    });
    const buttons: [Heard, string][] = [
        ['works', works],
        ['nothing', 'Nothing'],
        ['other', 'Another one'],
    ];
    return (
        <Box role="group" aria-label={entry.output.title} sx={{ borderTop: 1, borderColor: 'divider', py: 1, display: 'grid', gap: 1, gridTemplateColumns: { xs: '1fr', sm: '150px 130px auto minmax(0, 1fr)' }, alignItems: 'center' }}>
            <Typography sx={{ fontWeight: 650 }}>
                {entry.output.title}
                {entry.pin && (
                    <Typography component="span" variant="caption" sx={{ display: 'block' }}>
                        pin {entry.pin}
                    </Typography>
                )}
            </Typography>
            <NumberField label="Battery dip" unit="V" value={dip} onChange={setDip} error={isNonsense ? 'No number.' : undefined} />
            <Stack direction="row" sx={{ gap: 0.75 }}>
                {buttons.map(([heard, word]) => (
                    <Button key={heard} variant={heard === 'works' ? 'contained' : 'outlined'} disabled={!isSafe || isNonsense || add.isPending} onClick={() => add.mutate(heard)} sx={{ minHeight: 44, whiteSpace: 'nowrap' }}>
                        {word}
                    </Button>
                ))}
            </Stack>
            <Box>
                {entry.test && (
                    <Stack direction="row" sx={{ gap: 1, alignItems: 'center' }}>
                        <Mark state={entry.test.passed ? 'pass' : 'fail'} word={false} />
                        <Typography variant="body2">{inUnits(entry.test.sentence)}</Typography>
                    </Stack>
                )}
                {add.error && <ProblemNote error={add.error} />}
            </Box>
        </Box>
    );
}
