import TextField from '@mui/material/TextField';

import type { Hardware } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { BeginFrom } from '../../parts/BeginFrom';
import { Choice } from '../../parts/Choice';
import { Group } from '../../parts/Group';
import { DATA_FROM } from '../../parts/provenanceWords';
import { QuantityField } from '../../parts/QuantityField';
import { injectorDraft, type InjectorDraft } from './draft';

interface Props {
    hardware: Hardware;
    draft: InjectorDraft;
    change: (part: Partial<InjectorDraft>) => void;
    setDraft: (draft: InjectorDraft) => void;
    problem: (name: string) => string | undefined;
}

const titles = (choices: { key: string; title: string }[]) => Object.fromEntries(choices.map(({ key, title }) => [key, title]));

/** What is known of the injectors, and of what drives them. */
export function InjectorFields({ hardware, draft, change, setDraft, problem }: Props) {
    const fluids = Object.fromEntries(hardware.fluids.map(({ key, title, density_kg_m3 }) => [key, `${title}, ${density_kg_m3} kg/m³`]));
    return (
        <>
            <WhatIsFitted hardware={hardware} setDraft={setDraft} draft={draft} change={change} problem={problem} fluids={fluids} />
            <HowDriven draft={draft} change={change} problem={problem} hardware={hardware} />
        </>
    );
}

interface HowDrivenProps {
    draft: InjectorDraft;
    change: (part: Partial<InjectorDraft>) => void;
    problem: (name: string) => string | undefined;
    hardware: Hardware;
}

/** Their driver, and what the controller knows of them. */
function HowDriven({ draft, change, problem, hardware }: HowDrivenProps) {
    return (
        <Group title="How they are driven">
            <QuantityField label="Resistance" unit="Ω" value={draft.resistance} onChange={(resistance) => change({ resistance })} error={problem('resistance_ohm')} />
            <Choice
                label="Driver of the controller"
                value={draft.driver}
                onChange={(driver) => change({ driver: driver as InjectorDraft['driver'] })}
                options={titles(hardware.drivers)}
            />
            <QuantityField
                label="Shortest steady open time"
                unit="ms"
                value={draft.smallest}
                onChange={(smallest) => change({ smallest })}
                error={problem('smallest_open_ms')}
                placeholder="a usual one"
            />
            <QuantityField label="Injections per cycle" unit="" value={draft.injections} onChange={(injections) => change({ injections })} error={problem('injections_per_cycle')} />
            <Choice
                label="The controller knows"
                value={draft.signals}
                onChange={(signals) => change({ signals: signals as InjectorDraft['signals'] })}
                options={titles(hardware.signals)}
            />
            <QuantityField label="Power wanted" unit="kW" value={draft.target} onChange={(target) => change({ target })} error={problem('target_power_kw')} />
            <TextField label="Note" value={draft.note} onChange={(event) => change({ note: event.target.value })} sx={{ gridColumn: { sm: 'span 2' } }} />
        </Group>
    );
}

interface WhatIsFittedProps {
    hardware: Hardware;
    setDraft: (draft: InjectorDraft) => void;
    draft: InjectorDraft;
    change: (part: Partial<InjectorDraft>) => void;
    problem: (name: string) => string | undefined;
    fluids: Record<string, string>;
}

/** Which injectors, and what one of them flows. */
function WhatIsFitted({ hardware, setDraft, draft, change, problem, fluids }: WhatIsFittedProps) {
    const { vocabulary } = useJob();
    return (
        <Group title="What is fitted">
            <BeginFrom
                what="a known injector …"
                items={hardware.injectors.map(({ id, injectors }) => ({ id, name: injectors.name, part: injectors }))}
                // How many there are, and how they are driven, is the engine's, not the part's.
                onChoose={(known) =>
                    setDraft({
                        ...injectorDraft(known),
                        count: draft.count,
                        injections: draft.injections,
                        signals: draft.signals,
                        driver: draft.driver,
                        target: draft.target,
                    })
                }
            />
            <TextField
                label="Which injectors"
                value={draft.name}
                onChange={(event) => change({ name: event.target.value })}
                error={Boolean(problem('name'))}
                helperText={problem('name')}
                required
            />
            <QuantityField label="How many" unit="" value={draft.count} onChange={(count) => change({ count })} error={problem('count')} required />
            <Choice
                label="Data from"
                value={draft.provenance}
                onChange={(value) => change({ provenance: value as InjectorDraft['provenance'] })}
                options={Object.fromEntries(vocabulary.provenance.map((key) => [key, DATA_FROM[key] ?? key]))}
            />
            <QuantityField label="Static flow of one" unit="" value={draft.flow} onChange={(flow) => change({ flow })} error={problem('flow')} required />
            <Choice
                label="… in"
                value={draft.unit}
                onChange={(unit) => change({ unit: unit as InjectorDraft['unit'] })}
                options={Object.fromEntries(hardware.flow_units.map((unit) => [unit, unit]))}
            />
            <Choice
                label="… of"
                value={draft.fluid}
                onChange={(fluid) => change({ fluid: fluid as InjectorDraft['fluid'] })}
                options={{ ...fluids, own: 'another fluid' }}
            />
            <QuantityField
                label="… at a pressure of"
                unit="kPa"
                value={draft.rated}
                onChange={(rated) => change({ rated })}
                error={problem('rated_pressure_kpa')}
                required
            />
            {draft.fluid === 'own' && (
                <QuantityField
                    label="Density of the fluid"
                    unit="kg/m³"
                    value={draft.density}
                    onChange={(density) => change({ density })}
                    error={problem('fluid_density_kg_m3')}
                    required
                />
            )}
        </Group>
    );
}
