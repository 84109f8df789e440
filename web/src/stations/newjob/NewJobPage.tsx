import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { useNavigate } from 'react-router';

import { ApiProblem, client, unwrap, type Schemas } from '../../api/client';
import { WithMargin } from '../../parts/Margin';
import { mono } from '../../parts/theme';
import { shownUnit, toShown, type UnitChoice } from '../../units/units';
import { Choice } from '../../parts/Choice';
import { Group } from '../../parts/Group';
import { NumberField } from '../../parts/NumberField';
import { ProblemNote } from '../../parts/ProblemNote';
import { axisOf, EMPTY, engineOf, type EngineEntry, type Form } from './form';

const METRIC: UnitChoice = { temperature: '°C', pressure: 'kPa', injector_flow: 'cm³/min', mixture: 'lambda' };
const IMPERIAL: UnitChoice = { temperature: '°F', pressure: 'psi', injector_flow: 'lb/h', mixture: 'AFR' };

/** A new job: what is known of the engine; figures are computed while it is typed. */
export function NewJobPage() {
    const [form, setForm] = useState<Form>(EMPTY);
    const [imperial, setImperial] = useState(false);
    const units = imperial ? IMPERIAL : METRIC;
    const navigate = useNavigate();
    const queryClient = useQueryClient();
    const engine = engineOf(form, units);
    const preview = useQuery({
        queryKey: ['preview', engine],
        queryFn: () => unwrap(client.POST('/api/jobs/preview', { body: { engine: engine! } })),
        enabled: engine !== null,
        placeholderData: keepPreviousData,
        retry: false,
    });
    const create = useMutation({
        mutationFn: () => {
            const coolant = axisOf(form.coolantAxis, units);
            return unwrap(
                client.POST('/api/jobs', {
                    body: {
                        name: form.name,
                        note: form.note,
                        engine: engine as EngineEntry,
                        units,
                        axes: coolant ? { coolant_c: coolant } : null,
                        override_reason: form.overrideReason,
                    },
                }),
            );
        },
        onSuccess: async (job) => {
            await queryClient.invalidateQueries({ queryKey: ['jobs'], exact: true });
            await navigate(`/jobs/${job.id}/ladder`);
        },
    });
    const refusals = [create.error, engine ? preview.error : null];
    const problem = (name: string): string | undefined => {
        for (const error of refusals) {
            const sentence = error instanceof ApiProblem ? error.field(name) : undefined;
            if (sentence) return sentence;
        }
        return undefined;
    };
    const set = (name: keyof Form) => (value: string) => setForm((old) => ({ ...old, [name]: value }));
    const submit = (event: FormEvent) => {
        event.preventDefault();
        if (engine) create.mutate();
    };
    const implausible = preview.data?.level === 'implausible';
    const rotary = form.cycle === 'rotary';
    return (
        <WithMargin margin={<Computed judgement={engine && !preview.error ? preview.data : undefined} units={units} />}>
            <Box component="form" onSubmit={submit} noValidate>
                <Stack direction="row" sx={{ alignItems: 'baseline', mb: 1.5, gap: 2 }}>
                    <Typography variant="h1" sx={{ flex: 1 }}>
                        New job
                    </Typography>
                    <Choice
                        label="Units"
                        value={imperial ? 'imperial' : 'metric'}
                        onChange={(value) => setImperial(value === 'imperial')}
                        options={{ metric: '°C, kPa, cm³/min', imperial: '°F, psi, lb/h' }}
                        width={190}
                    />
                </Stack>
                <Group title="Vehicle" columns="1fr 2fr">
                    <TextField
                        label="Name of the job"
                        value={form.name}
                        onChange={(event) => set('name')(event.target.value)}
                        error={Boolean(problem('name'))}
                        helperText={problem('name')}
                        required
                    />
                    <TextField
                        label="Complaint or note"
                        value={form.note}
                        onChange={(event) => set('note')(event.target.value)}
                    />
                </Group>
                <Group title="Engine">
                    <Choice
                        label="Kind"
                        value={form.cycle}
                        onChange={set('cycle')}
                        options={{ four_stroke: 'four-stroke', rotary: 'rotary' }}
                    />
                    <NumberField
                        label="Displacement"
                        unit="l"
                        value={form.displacement}
                        onChange={set('displacement')}
                        error={problem('displacement_l')}
                        help={rotary ? 'one chamber of each rotor, added up' : undefined}
                        required
                    />
                    <NumberField
                        label={rotary ? 'Rotors' : 'Cylinders'}
                        value={form.chambers}
                        onChange={set('chambers')}
                        error={problem('chambers')}
                        required
                    />
                    <NumberField
                        label="Compression ratio"
                        unit=": 1"
                        value={form.compression}
                        onChange={set('compression')}
                        error={problem('compression_ratio')}
                    />
                    {!rotary && (
                        <Choice
                            label="Cam"
                            value={form.cam}
                            onChange={set('cam')}
                            options={{ mild: 'mild', moderate: 'moderate', wild: 'wild' }}
                        />
                    )}
                    {!rotary && (
                        <NumberField
                            label="Valves per cylinder"
                            value={form.valves}
                            onChange={set('valves')}
                            error={problem('valves_per_chamber')}
                        />
                    )}
                    <NumberField
                        label="Rev limit"
                        unit="rpm"
                        value={form.revLimit}
                        onChange={set('revLimit')}
                        error={problem('rev_limit_rpm') ?? problem('torque_peak_rpm')}
                    />
                    <NumberField
                        label="Boost, 0 for none"
                        unit={shownUnit('kPa', units)}
                        value={form.boost}
                        onChange={set('boost')}
                        error={problem('boost_kpa')}
                    />
                </Group>
                <Group title="Fuel and injectors">
                    <Choice
                        label="Injection"
                        value={form.fuelling}
                        onChange={set('fuelling')}
                        options={{ port: 'at each port', throttle_body: 'at the throttle body' }}
                    />
                    <NumberField
                        label="Injector flow, each"
                        unit={shownUnit('cm³/min', units)}
                        value={form.injectorFlow}
                        onChange={set('injectorFlow')}
                        error={problem('flow_cm3_min')}
                        required
                    />
                    <NumberField
                        label="… rated at"
                        unit={shownUnit('kPa', units)}
                        value={form.ratedPressure}
                        onChange={set('ratedPressure')}
                        placeholder={toShown(300, 'kPa', units).toFixed(imperial ? 1 : 0)}
                        error={problem('rated_pressure_kpa')}
                    />
                    <NumberField
                        label="Injectors"
                        value={form.injectorCount}
                        onChange={set('injectorCount')}
                        placeholder={form.chambers}
                        error={problem('count')}
                    />
                    <NumberField
                        label="Rail pressure"
                        unit={shownUnit('kPa', units)}
                        value={form.railPressure}
                        onChange={set('railPressure')}
                        placeholder={toShown(300, 'kPa', units).toFixed(imperial ? 1 : 0)}
                        error={problem('rail_pressure_kpa')}
                    />
                    <NumberField
                        label="Ethanol in the tank"
                        unit="%"
                        value={form.ethanol}
                        onChange={set('ethanol')}
                        error={problem('ethanol_volume_share')}
                    />
                    <NumberField
                        label="Injections per cycle"
                        value={form.injections}
                        onChange={set('injections')}
                        error={problem('injections_per_cycle')}
                    />
                    <TextField
                        label="Dead time: V ms; V ms; …"
                        value={form.deadTime}
                        onChange={(event) => set('deadTime')(event.target.value)}
                        placeholder="8 2,5; 12 1,2; 14 0,9"
                        error={Boolean(problem('dead_time'))}
                        helperText={problem('dead_time') ?? 'empty: a middling curve, marked assumed'}
                        slotProps={{ inputLabel: { shrink: true } }}
                    />
                </Group>
                <Group title="Ways of working">
                    <Choice
                        label="Prime"
                        value={form.prime}
                        onChange={set('prime')}
                        options={{ shot: 'a real shot at key-on', cranking_only: 'leave it to cranking fuel' }}
                    />
                    <Choice
                        label="Warm idle"
                        value={form.idle}
                        onChange={set('idle')}
                        options={{ low: '700 to 800 rpm', high: '950 to 1000 rpm' }}
                    />
                    <Choice
                        label="Idle mixture"
                        value={form.mixture}
                        onChange={set('mixture')}
                        options={{ rich: 'slightly rich, steady', lean: 'lean, economical' }}
                    />
                    <Choice
                        label="Start curves"
                        value={form.curve}
                        onChange={set('curve')}
                        options={{ full: 'full curves', three_point: 'three points' }}
                    />
                    <TextField
                        label={`Own coolant breakpoints, ${shownUnit('°C', units)}`}
                        value={form.coolantAxis}
                        onChange={(event) => set('coolantAxis')(event.target.value)}
                        placeholder="-20 0 20 40 60 80"
                        error={Boolean(problem('axes.coolant_c'))}
                        helperText={problem('axes.coolant_c') ?? 'empty: chosen for the engine'}
                        sx={{ gridColumn: { sm: 'span 2' } }}
                        slotProps={{ inputLabel: { shrink: true } }}
                    />
                </Group>
                {implausible && (
                    <Alert severity="warning" variant="outlined" sx={{ mb: 2, color: 'text.primary' }}>
                        <Stack spacing={1}>
                            <span>{preview.data?.sentences.join(' ')}</span>
                            <TextField
                                label="If it is really so, say why"
                                value={form.overrideReason}
                                onChange={(event) => set('overrideReason')(event.target.value)}
                                fullWidth
                            />
                        </Stack>
                    </Alert>
                )}
                {create.error && <ProblemNote error={create.error} />}
                <Button
                    type="submit"
                    variant="contained"
                    size="large"
                    disabled={engine === null || create.isPending}
                    sx={{ mt: 1 }}
                >
                    Compute the start tables
                </Button>
            </Box>
        </WithMargin>
    );
}

/** What follows from the data so far. */
function Computed({ judgement, units }: { judgement: Schemas['InjectorJudgement'] | undefined; units: UnitChoice }) {
    if (!judgement) {
        return (
            <Typography variant="body2">
                Displacement, cylinders and injector flow are enough to begin. What follows from them
                stands here while you type.
            </Typography>
        );
    }
    const rows: [string, string][] = [
        [
            'Flow at this rail',
            `${toShown(judgement.flow_cm3_min, 'cm³/min', units).toFixed(0)} ${shownUnit('cm³/min', units)}`,
        ],
        ['Reference pulse', `${judgement.reference_pulse_ms.toFixed(2)} ms`],
        ['Idle pulse, about', `${judgement.idle_pulse_ms.toFixed(2)} ms`],
        ['Duty at rev limit', `${judgement.duty_at_limit_pct.toFixed(0)} %`],
    ];
    return (
        <Box aria-live="polite">
            <Typography variant="h2" gutterBottom>
                What follows
            </Typography>
            {rows.map(([name, value]) => (
                <Box key={name} sx={{ display: 'flex', justifyContent: 'space-between', py: 0.5 }}>
                    <Typography variant="body2">{name}</Typography>
                    <Typography sx={{ fontFamily: mono, fontWeight: 600 }}>{value}</Typography>
                </Box>
            ))}
            <Typography
                variant="body2"
                sx={{
                    mt: 1.5,
                    pl: 1,
                    borderLeft: 3,
                    borderColor: judgement.level === 'fits' ? 'primary.main' : 'warning.main',
                }}
            >
                {judgement.sentences.join(' ')}
            </Typography>
            <Typography variant="caption" component="p" sx={{ mt: 2 }} color="text.secondary">
                Reference pulse: fuel for full cylinders at 100 kPa and 20 °C, lambda 1, without dead time.
            </Typography>
        </Box>
    );
}
