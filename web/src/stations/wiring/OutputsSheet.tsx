import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { outputsQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { inUnits } from '../../units/said';
import { shownUnit, toShown } from '../../units/units';
import { Caution } from '../../parts/Caution';
import { Choice } from '../../parts/Choice';
import { CurvePlot } from '../../parts/CurvePlot';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { useComputed } from '../../parts/useComputed';

type Settings = Schemas['OutputSettings'];

/** When each output switches, and how it is tried at the bench. */
export function OutputsSheet() {
    const { job } = useJob();
    const outputs = useQuery(outputsQuery(job.id));
    if (!outputs.data) return outputs.error ? <ProblemNote error={outputs.error} /> : <Loading what="Opening the outputs" />;
    return <Sheet key={outputs.data.number} saved={outputs.data} />;
}

const NUMBERS: { name: keyof Settings; label: string; unit: string; of: string }[] = [
    { name: 'fan_on_c', label: 'Fan 1 on from', unit: '°C', of: 'fan_1' },
    { name: 'fan_off_c', label: 'Fan 1 off below', unit: '°C', of: 'fan_1' },
    { name: 'fan_2_on_c', label: 'Fan 2 on from', unit: '°C', of: 'fan_2' },
    { name: 'fan_2_off_c', label: 'Fan 2 off below', unit: '°C', of: 'fan_2' },
    { name: 'pump_prime_s', label: 'Pump prime', unit: 's', of: 'fuel_pump' },
    { name: 'pump_stops_s', label: 'Pump off after', unit: 's', of: 'fuel_pump' },
    { name: 'tachometer_pulses', label: 'Tachometer, pulses in a turn', unit: '', of: 'tachometer' },
    { name: 'idle_hz', label: 'Idle valve', unit: 'Hz', of: 'idle_valve' },
    { name: 'boost_hz', label: 'Boost valve', unit: 'Hz', of: 'boost_valve' },
    { name: 'boost_least_pct', label: 'Boost valve, least duty', unit: '%', of: 'boost_valve' },
    { name: 'boost_most_pct', label: 'Boost valve, most duty', unit: '%', of: 'boost_valve' },
    { name: 'compressor_off_throttle_pct', label: 'Compressor off above', unit: '%', of: 'compressor' },
];
const WAYS = { more: 'more duty', less: 'less duty' };

function Sheet({ saved }: { saved: Schemas['OutputsOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [settings, setSettings] = useState<Settings>(saved.settings);
    const [typed, setTyped] = useState<Partial<Record<keyof Settings, number | null>>>({});
    const path = { params: { path: { job_id: job.id } } };
    const isWhole = Object.values(typed).every((value) => value !== null);
    const isDirty = JSON.stringify(settings) !== JSON.stringify(saved.settings);
    const preview = useComputed(`outputs-${job.id}`, isWhole ? { settings } : null, (body) => unwrap(client.POST('/api/jobs/{job_id}/outputs/preview', { ...path, body })));
    const save = useMutation({
        mutationFn: () => unwrap(client.POST('/api/jobs/{job_id}/outputs', { ...path, body: { settings } })),
        onSuccess: () => refresh(queryClient, job.id, 'wiring'),
    });
    const shown = preview.error ? saved : (preview.data ?? saved);
    const problem = (name: string) => fieldProblem([save.error, preview.error], name);
    const fitted = new Set(saved.sheets.map((sheet) => sheet.key));
    const set = (name: keyof Settings, value: number | null) => {
        setTyped((old) => ({ ...old, [name]: value }));
        if (value !== null) setSettings((old) => ({ ...old, [name]: value }));
    };
    return (
        <WithMargin
            margin={
                <Typography variant="body2">
                    Outputs that are fitted stand in the sheet; fit others under What is fitted. Each is commanded once at the bench, with its
                    caution, before the engine runs.
                </Typography>
            }
        >
            <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mb: 1.5 }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Output conditions
                </Typography>
                <Button variant="contained" disabled={!isWhole || save.isPending || (!isDirty && saved.number > 0)} onClick={() => save.mutate()}>
                    {!isDirty && saved.number > 0 ? `Version ${saved.number} saved` : 'Save the conditions'}
                </Button>
            </Stack>
            {save.error && <ProblemNote error={save.error} />}
            <Group title="Conditions">
                {NUMBERS.filter(({ of }) => fitted.has(of)).map(({ name, label, unit }) => (
                    <QuantityField
                        key={name}
                        label={label}
                        unit={unit}
                        value={typed[name] === null ? null : (settings[name] as number)}
                        onChange={(value) => set(name, value)}
                        error={problem(name) ?? (typed[name] === null ? 'A number is needed.' : undefined)}
                    />
                ))}
                {fitted.has('idle_valve') && (
                    <Choice label="Idle valve opens with" value={settings.idle_opens_with} onChange={(value) => setSettings((old) => ({ ...old, idle_opens_with: value as Settings['idle_opens_with'] }))} options={WAYS} />
                )}
                {fitted.has('boost_valve') && (
                    <Choice label="Boost rises with" value={settings.boost_raises_with} onChange={(value) => setSettings((old) => ({ ...old, boost_raises_with: value as Settings['boost_raises_with'] }))} options={WAYS} />
                )}
            </Group>
            {fitted.has('fan_1') && (
                <Box sx={{ display: 'grid', gap: 3, gridTemplateColumns: { xs: 'minmax(0, 1fr)', sm: 'repeat(2, minmax(0, 1fr))' }, mb: 1 }}>
                    <Fan title="Fan 1 over coolant, engine running" fan={shown.fan} />
                    {fitted.has('fan_2') && <Fan title="Fan 2 over coolant, engine running" fan={shown.fan_2} />}
                </Box>
            )}
            {shown.sheets.map((sheet) => (
                <Box component="section" aria-label={sheet.title} key={sheet.key} sx={{ borderTop: 1, borderColor: 'divider', py: 1 }}>
                    <Typography variant="h3" component="h2">
                        {sheet.title}
                    </Typography>
                    <Typography>{sheet.conditions.map((sentence) => inUnits(sentence)).join(' ')}</Typography>
                    <Typography variant="body2" sx={{ mb: sheet.caution ? 1 : 0 }}>
                        Bench test: {sheet.test}
                    </Typography>
                    {sheet.caution && <Caution>{sheet.caution}</Caution>}
                    <Sentences sentences={sheet.remarks} level="attention" />
                </Box>
            ))}
        </WithMargin>
    );
}

function Fan({ title, fan }: { title: string; fan: Schemas['FanPicture'] }) {
    const { job } = useJob();
    const at = (points: readonly (readonly number[])[], lift: number) =>
        points.map(([coolant = 0, on = 0]) => [toShown(coolant, '°C', job.units), on * 100 + lift] as const);
    return (
        <Box>
        <Typography variant="h3" component="div">
            {title}
        </Typography>
        <CurvePlot
            title={title}
            xLabel={`Coolant, ${shownUnit('°C', job.units)}`}
            yLabel="runs, %"
            series={[
                { name: 'warming up', points: at(fan.rising, 0) },
                { name: 'cooling down', points: at(fan.falling, 1), look: 'broken' },
            ]}
            yEnds={[0, 110]}
            height={210}
        />
        </Box>
    );
}
