import TextField from '@mui/material/TextField';

import type { Vocabulary } from '../../api/client';
import { Choice } from '../../parts/Choice';
import { Group } from '../../parts/Group';
import { NumberField } from '../../parts/NumberField';
import { shownUnit, type UnitChoice } from '../../units/units';
import { defaultText, isOddAxis, isOddDeadTime, unitOf, type Form } from './form';

export interface GroupProps {
    form: Form;
    vocabulary: Vocabulary;
    units: UnitChoice;
    set: (part: Partial<Form>) => void;
    problem: (name: string) => string | undefined;
}

interface FieldProps extends GroupProps {
    path: string;
    label: string;
    help?: string;
    /** Where it says something else than the server's own default. */
    placeholder?: string;
    alsoProblem?: string;
}

/** A number of the engine; unit, default and whether it is needed are the server's. */
function EngineNumber({ form, vocabulary, units, set, problem, path, label, help, placeholder, alsoProblem }: FieldProps) {
    const field = vocabulary.engine_fields.find((entry) => entry.path === path);
    if (!field) return null;
    const name = path.split('.').at(-1) ?? path;
    const empty = placeholder ?? defaultText(field, units);
    const unit = unitOf(field, units);
    return (
        <NumberField
            label={label}
            value={form.numbers[path] ?? ''}
            onChange={(text) => set({ numbers: { ...form.numbers, [path]: text } })}
            error={problem(name) ?? (alsoProblem ? problem(alsoProblem) : undefined)}
            required={field.needed}
            {...(unit ? { unit } : {})}
            {...(help ? { help } : {})}
            {...(empty === undefined ? {} : { placeholder: empty })}
        />
    );
}

export function VehicleGroup({ form, vocabulary, set, problem }: GroupProps) {
    const begins = vocabulary.car_begins;
    return (
        <Group title="Vehicle" columns="1fr 1.2fr 1.5fr">
            <TextField
                label="Name of the job"
                value={form.name}
                onChange={(event) => set({ name: event.target.value })}
                error={Boolean(problem('name'))}
                helperText={problem('name')}
                required
            />
            <TextField label="Complaint or note" value={form.note} onChange={(event) => set({ note: event.target.value })} />
            <Choice
                label="Where the car stands"
                value={form.car}
                onChange={(value) => set({ car: value as Form['car'] })}
                options={Object.fromEntries(begins.map(({ key, title }) => [key, title]))}
                help={begins.find(({ key }) => key === form.car)?.reason || 'nothing is taken as done'}
            />
        </Group>
    );
}

export function EngineGroup(props: GroupProps) {
    const { form, set } = props;
    const isRotary = form.cycle === 'rotary';
    return (
        <Group title="Engine">
            <Choice label="Kind" value={form.cycle} onChange={(value) => set({ cycle: value as Form['cycle'] })} options={{ four_stroke: 'four-stroke', rotary: 'rotary' }} />
            <EngineNumber {...props} path="displacement_l" label="Displacement" {...(isRotary ? { help: 'one chamber of each rotor, added up' } : {})} />
            <EngineNumber {...props} path="chambers" label={isRotary ? 'Rotors' : 'Cylinders'} />
            <EngineNumber {...props} path="compression_ratio" label="Compression ratio" />
            {!isRotary && <Choice label="Cam" value={form.cam} onChange={(value) => set({ cam: value as Form['cam'] })} options={{ mild: 'mild', moderate: 'moderate', wild: 'wild' }} />}
            {!isRotary && <EngineNumber {...props} path="valves_per_chamber" label="Valves per cylinder" />}
            <EngineNumber {...props} path="rev_limit_rpm" label="Rev limit" alsoProblem="torque_peak_rpm" />
            <EngineNumber {...props} path="boost_kpa" label="Boost, 0 for none" />
        </Group>
    );
}

export function FuelGroup(props: GroupProps) {
    const { form, set, problem } = props;
    return (
        <Group title="Fuel and injectors">
            <Choice label="Injection" value={form.fuelling} onChange={(value) => set({ fuelling: value as Form['fuelling'] })} options={{ port: 'at each port', throttle_body: 'at the throttle body' }} />
            <EngineNumber {...props} path="injectors.flow_cm3_min" label="Injector flow, each" />
            <EngineNumber {...props} path="injectors.rated_pressure_kpa" label="… rated at" />
            <EngineNumber {...props} path="injectors.count" label="Injectors" placeholder={form.numbers.chambers ?? ''} />
            <EngineNumber {...props} path="rail_pressure_kpa" label="Rail pressure" />
            <EngineNumber {...props} path="ethanol_volume_share" label="Ethanol in the tank" />
            <EngineNumber {...props} path="injections_per_cycle" label="Injections per cycle" />
            <TextField
                label="Dead time: V ms; V ms; …"
                value={form.deadTime}
                onChange={(event) => set({ deadTime: event.target.value })}
                placeholder="8 2.5; 12 1.2; 14 0.9"
                error={Boolean(problem('dead_time')) || isOddDeadTime(form.deadTime)}
                helperText={
                    isOddDeadTime(form.deadTime)
                        ? 'Pairs of volts and milliseconds, parted by semicolons: 8 2.5; 12 1.2'
                        : (problem('dead_time') ?? 'empty: a middling curve, marked assumed')
                }
                slotProps={{ inputLabel: { shrink: true } }}
            />
        </Group>
    );
}

/** Ways of working that a new job asks about; the others have their sheet. */
const ASKED = ['prime', 'idle_speed', 'idle_mixture', 'curve', 'changes'];

export function SchoolsGroup({ form, vocabulary, units, set, problem }: GroupProps) {
    return (
        <Group title="Ways of working">
            {vocabulary.schools
                .filter(({ key }) => ASKED.includes(key))
                .map(({ key, title, options, chosen }) => (
                    <Choice
                        key={key}
                        label={title}
                        value={form.schools[key] ?? chosen}
                        onChange={(value) => set({ schools: { ...form.schools, [key]: value } })}
                        options={Object.fromEntries(options as [string, string][])}
                    />
                ))}
            <TextField
                label={`Own coolant breakpoints, ${shownUnit('°C', units)}`}
                value={form.coolantAxis}
                onChange={(event) => set({ coolantAxis: event.target.value })}
                placeholder="-20 0 20 40 60 80"
                error={Boolean(problem('axes.coolant_c')) || isOddAxis(form.coolantAxis, units)}
                helperText={
                    isOddAxis(form.coolantAxis, units)
                        ? 'Numbers parted by blanks: -20 0 20 40'
                        : (problem('axes.coolant_c') ?? 'empty: chosen for the engine')
                }
                sx={{ gridColumn: { sm: 'span 2' } }}
                slotProps={{ inputLabel: { shrink: true } }}
            />
        </Group>
    );
}
