import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap } from '../../api/client';
import { refresh } from '../../api/refresh';
import { threeWireQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { Caution } from '../../parts/Caution';
import { fieldProblem } from '../../parts/fieldProblem';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { useComputed } from '../../parts/useComputed';

interface Typed {
    name: string;
    open: number | null;
    ohm: number | null;
    plugged: number | null;
}

const EMPTY: Typed[] = [1, 2, 3].map((n) => ({ name: `Wire ${n}`, open: null, ohm: null, plugged: null }));

/** An unknown three-wire sensor: which wire is 5 V, ground and signal. */
export function ThreeWireSheet() {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [name, setName] = useState('');
    const [wires, setWires] = useState<Typed[]>(EMPTY);
    const known = useQuery(threeWireQuery(job.id));
    const isWhole = wires.every((wire) => wire.open !== null);
    const readings = wires.map((wire) => ({ name: wire.name, open_v: wire.open ?? 0, ground_ohm: wire.ohm, plugged_v: wire.plugged }));
    const answer = useComputed('three-wire', isWhole ? { name, wires: readings } : null, (body) => unwrap(client.POST('/api/three-wire/identify', { body })));
    const save = useMutation({
        mutationFn: () => unwrap(client.POST('/api/jobs/{job_id}/three-wire', { params: { path: { job_id: job.id } }, body: { name, wires: readings } })),
        onSuccess: () => {
            setName('');
            setWires(EMPTY);
            return refresh(queryClient, job.id, 'wiring');
        },
    });
    const change = (at: number, part: Partial<Typed>) => setWires((old) => old.map((wire, i) => (i === at ? { ...wire, ...part } : wire)));
    const problem = (field: string) => fieldProblem([save.error, answer.error], field);
    const result = isWhole && !answer.error ? answer.data?.result : undefined;
    return (
        <WithMargin
            margin={
                <>
                    <Typography variant="h3" component="h2" sx={{ mb: 1 }}>
                        Found before
                    </Typography>
                    {(known.data ?? []).map((entry) => (
                        <Box key={entry.name} sx={{ mb: 1.5 }}>
                            <Typography sx={{ fontWeight: 650 }}>{entry.name}</Typography>
                            {entry.wires.map((wire, i) => (
                                <Typography key={i} variant="body2">
                                    {wire.name}: {entry.result.roles[i]}
                                </Typography>
                            ))}
                        </Box>
                    ))}
                    {known.data?.length === 0 && <Typography variant="body2">Nothing yet.</Typography>}
                </>
            }
        >
            <Typography variant="h1" sx={{ mb: 1 }}>
                Unknown three-wire sensor
            </Typography>
            <Typography sx={{ mb: 1.5 }}>
                Sensor unplugged, key on, black lead on battery minus: measure each wire of the loom's plug. Then key off for the
                resistance, and once more with the sensor plugged in where two wires read alike.
            </Typography>
            <Caution>Measure with thin probes from behind the plug; a slipped probe shorts 5 V and takes every sensor down.</Caution>
            <TextField label="Which sensor" value={name} onChange={(event) => setName(event.target.value)} error={Boolean(problem('name'))} helperText={problem('name')} sx={{ mb: 2, width: 320, maxWidth: '100%' }} />
            {wires.map((wire, i) => (
                <Box key={i} role="group" aria-label={`Wire ${i + 1}`} sx={{ display: 'grid', gap: 1.5, mb: 1.5, gridTemplateColumns: { xs: '1fr', sm: '1.2fr repeat(3, 1fr) 90px' }, alignItems: 'start' }}>
                    <TextField label="Colour or place" value={wire.name} onChange={(event) => change(i, { name: event.target.value })} />
                    <QuantityField label="Key on, unplugged" unit="V" value={wire.open} onChange={(open) => change(i, { open })} error={problem(`wires.${i}.open_v`)} />
                    <QuantityField label="Key off, to minus" unit="Ω" value={wire.ohm} onChange={(ohm) => change(i, { ohm })} error={problem(`wires.${i}.ground_ohm`)} />
                    <QuantityField label="Key on, plugged in" unit="V" value={wire.plugged} onChange={(plugged) => change(i, { plugged })} error={problem(`wires.${i}.plugged_v`)} />
                    <Typography sx={{ fontWeight: 650, pt: 1, color: 'primary.main' }}>{result?.roles[i] === 'unknown' ? '?' : result?.roles[i]}</Typography>
                </Box>
            ))}
            {answer.error && isWhole && <ProblemNote error={answer.error} />}
            {result && <Sentences sentences={result.sentences} level={result.is_sure ? 'good' : 'attention'} />}
            {save.error && <ProblemNote error={save.error} />}
            <Stack direction="row">
                <Button variant="contained" disabled={!isWhole || !name.trim() || save.isPending} onClick={() => save.mutate()}>
                    Write it down
                </Button>
            </Stack>
        </WithMargin>
    );
}
