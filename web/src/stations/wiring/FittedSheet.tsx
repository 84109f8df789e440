import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';

import type { Fitting, Schemas, WiringVocabulary } from '../../api/client';
import { WithMargin } from '../../parts/Margin';
import { Choice } from '../../parts/Choice';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { SaveHead } from './SaveHead';
import type { WiringWork } from './useWiring';

interface Props {
    work: WiringWork;
    words: WiringVocabulary;
}

type Named = { key: string; title: string };

const named = (list: readonly Named[]) => Object.fromEntries(list.map(({ key, title }) => [key, title]));
const SENSOR_KINDS = { hall: 'Hall, three wires', inductive: 'inductive, two wires' };
const DISTANCE = { display: 'grid', gridTemplateColumns: { xs: '1fr', sm: 'repeat(3, minmax(0, 1fr))' } } as const;

/** Everything that must be wired; the plan follows as it changes. */
export function FittedSheet({ work, words }: Props) {
    const { fitting } = work.entry;
    const set = work.setFitting;
    const problem = (name: string) => fieldProblem([work.error, work.saveError], name);
    return (
        <WithMargin
            margin={
                <>
                    <Typography variant="h3" component="h2" sx={{ mb: 1 }}>
                        On the controller
                    </Typography>
                    <Sentences sentences={work.plan.sentences} level={work.plan.level} />
                    <Typography variant="body2">
                        {work.plan.functions.length} functions, {work.plan.allocation.spare.length} pins spare.
                    </Typography>
                </>
            }
        >
            <SaveHead title="What is fitted" work={work} />
            <Group title="Ignition" columns="repeat(3, minmax(0, 1fr))">
                <Choice label="Ignition" value={fitting.ignition} onChange={(value) => set({ ignition: value as Fitting['ignition'] })} options={named(words.ignitions)} error={problem('ignition')} />
                <Choice
                    label="Coils"
                    value={fitting.coils}
                    onChange={(value) => set({ coils: value as Fitting['coils'] })}
                    options={{ with_igniter: 'with their own power stage', plain: 'plain, two terminals' }}
                />
                <Stack>
                    <Tick label="Keep outputs for a coil at each plug later" checked={fitting.reserve_coil_per_cylinder} onChange={(on) => set({ reserve_coil_per_cylinder: on })} />
                    {fitting.coils === 'plain' && <Tick label="Power stages of their own fitted" checked={fitting.igniters} onChange={(on) => set({ igniters: on })} />}
                </Stack>
            </Group>
            <Group title="Injection" columns="1.5fr 1fr 1.2fr">
                <Choice label="Injection" value={fitting.injection} onChange={(value) => set({ injection: value as Fitting['injection'] })} options={named(words.injections)} error={problem('injection')} />
                <QuantityField label="Injector resistance" unit="Ω" value={fitting.injector_ohm} onChange={(value) => set({ injector_ohm: value })} error={problem('injector_ohm')} help="a usual one if left empty" />
                <Tick label="Resistors in series with the injectors" checked={fitting.series_resistors} onChange={(on) => set({ series_resistors: on })} />
            </Group>
            <Group title="Crank and cam" columns="repeat(3, minmax(0, 1fr))">
                <Choice label="Crank sensor" value={fitting.crank_sensor} onChange={(value) => set({ crank_sensor: value as Fitting['crank_sensor'] })} options={SENSOR_KINDS} />
                <Choice label="Cam sensor" value={fitting.cam_sensor} onChange={(value) => set({ cam_sensor: value as Fitting['cam_sensor'] })} options={{ ...SENSOR_KINDS, none: 'none' }} />
                <Tick label="Converter for an inductive signal fitted" checked={fitting.signal_converter} onChange={(on) => set({ signal_converter: on })} />
            </Group>
            <Several title="Sensors" all={words.sensors} chosen={fitting.sensors} onChange={(sensors) => set({ sensors })} error={problem('sensors')} />
            <Box sx={{ ...DISTANCE, mb: 2 }}>
                <Tick label="Manifold pressure: the controller's own sensor" checked={fitting.built_in_pressure} onChange={(on) => set({ built_in_pressure: on })} />
                <Tick label="Pull-ups of two-wire sensors fitted outside" checked={fitting.external_pull_ups} onChange={(on) => set({ external_pull_ups: on })} />
                <Tick label="Wideband talks over the bus" checked={fitting.wideband_on_bus} onChange={(on) => set({ wideband_on_bus: on })} />
            </Box>
            <Several title="Outputs" all={words.outputs} chosen={fitting.outputs} onChange={(outputs) => set({ outputs })} error={problem('outputs')} />
            <Group title="Idle valve, bus" columns="repeat(3, minmax(0, 1fr))">
                <Choice label="Idle valve" value={fitting.idle_valve} onChange={(value) => set({ idle_valve: value as Fitting['idle_valve'] })} options={named(words.idle_valves)} />
                <Tick label="Something hangs on the bus" checked={fitting.bus} onChange={(on) => set({ bus: on })} />
                <Tick label="Both fans on one output" checked={fitting.fans_together} onChange={(on) => set({ fans_together: on })} />
            </Group>
            <Several title="Switches and pulses in" all={words.inputs} chosen={fitting.inputs} onChange={(inputs) => set({ inputs })} error={problem('inputs')} />
            <OwnFunctions own={fitting.own} words={words} onChange={(own) => set({ own })} problem={problem} />
        </WithMargin>
    );
}

function Tick({ label, checked, onChange }: { label: string; checked: boolean; onChange: (on: boolean) => void }) {
    return <FormControlLabel label={label} control={<Checkbox checked={checked} onChange={(event) => onChange(event.target.checked)} />} />;
}

interface SeveralProps {
    title: string;
    all: readonly Named[];
    chosen: readonly string[];
    onChange: (keys: string[]) => void;
    error: string | undefined;
}

function Several({ title, all, chosen, onChange, error }: SeveralProps) {
    return (
        <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, mb: 1, minWidth: 0 }}>
            <Typography component="legend" variant="h3">
                {title}
            </Typography>
            <Box sx={DISTANCE}>
                {all.map(({ key, title: name }) => (
                    <Tick
                        key={key}
                        label={name}
                        checked={chosen.includes(key)}
                        onChange={(on) => onChange(on ? [...chosen, key] : chosen.filter((entry) => entry !== key))}
                    />
                ))}
            </Box>
            {error && (
                <Typography variant="body2" role="alert" sx={{ color: 'error.main' }}>
                    {error}
                </Typography>
            )}
        </Box>
    );
}

type Own = Schemas['OwnFunction'];

interface OwnProps {
    own: readonly Own[];
    words: WiringVocabulary;
    onChange: (own: Own[]) => void;
    problem: (name: string) => string | undefined;
}

function OwnFunctions({ own, words, onChange, problem }: OwnProps) {
    const change = (at: number, part: Partial<Own>) => onChange(own.map((entry, i) => (i === at ? { ...entry, ...part } : entry)));
    const able = words.capabilities.filter(({ key }) => !words.shared.includes(key));
    return (
        <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, minWidth: 0 }}>
            <Typography component="legend" variant="h3" sx={{ mb: 1 }}>
                Something of your own
            </Typography>
            {own.map((entry, i) => (
                <Stack key={i} direction={{ xs: 'column', sm: 'row' }} sx={{ gap: 1.5, mb: 1.5 }}>
                    <TextField label="What" value={entry.title} onChange={(event) => change(i, { title: event.target.value })} error={Boolean(problem(`own.${i}.title`))} helperText={problem(`own.${i}.title`)} />
                    <Choice label="Needs" value={entry.capability} onChange={(value) => change(i, { capability: value as Own['capability'] })} options={named(able)} width={260} />
                    <QuantityField label="Current" unit="A" value={entry.current_a} onChange={(value) => change(i, { current_a: value ?? 0 })} error={problem(`own.${i}.current_a`)} />
                    <Button onClick={() => onChange(own.filter((_, j) => j !== i))}>Remove</Button>
                </Stack>
            ))}
            <Button variant="outlined" onClick={() => onChange([...own, { title: '', capability: 'low_side', current_a: 0.5 }])}>
                Add one
            </Button>
        </Box>
    );
}
