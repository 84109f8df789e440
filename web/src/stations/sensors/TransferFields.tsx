import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';

import { useJob } from '../../parts/jobContext';
import { toShown } from '../../units/units';
import { Choice } from '../../parts/Choice';
import { PointGrid, type Column } from '../../parts/PointGrid';
import { QuantityField } from '../../parts/QuantityField';
import type { Draft, SensorFunction, Way } from './draft';

interface Props {
    draft: Draft;
    definition: SensorFunction;
    /** What a pasted table is, by kind of curve. */
    purposes: Record<string, string>;
    change: (part: Partial<Draft>) => void;
    problem: (name: string) => string | undefined;
}

const THERMISTOR_WAYS: Record<string, string> = { points: 'three points or a table', beta: 'one point and Beta' };
const LINE_WAYS: Record<string, string> = { points: 'two or more points', slope: 'slope and offset' };

/** The fields of one kind of curve. */
export function TransferFields({ draft, definition, purposes, change, problem }: Props) {
    const signal: Column = draft.kind === 'frequency' ? { title: 'Frequency', unit: 'Hz' } : { title: 'Signal', unit: 'V' };
    const reading: Column = { title: 'Reading', unit: definition.unit };
    const thermistor: Column[] = [
        { title: 'Temperature', unit: '°C' },
        { title: 'Resistance', unit: 'Ω' },
    ];
    const ways = draft.kind === 'thermistor' ? THERMISTOR_WAYS : draft.kind === 'linear' || draft.kind === 'frequency' ? LINE_WAYS : null;
    return (
        <Stack spacing={1.5}>
            {ways && <Choice label="Entered as" value={draft.way} onChange={(way) => change({ way: way as Way })} options={ways} />}
            {draft.kind === 'thermistor' && (
                <>
                    <QuantityField
                        label="Pull-up resistor"
                        unit="Ω"
                        value={draft.pullUp}
                        onChange={(pullUp) => change({ pullUp })}
                        error={problem('pull_up_ohm')}
                        required
                    />
                    <QuantityField
                        label="Supply of the pull-up"
                        unit="V"
                        value={draft.supply}
                        onChange={(supply) => change({ supply })}
                        error={problem('supply_v')}
                    />
                </>
            )}
            {draft.kind === 'thermocouple' ? (
                <>
                    <QuantityField label="Gain of the amplifier" unit="V/mV" value={draft.gain} onChange={(gain) => change({ gain })} error={problem('gain_v_per_mv')} required />
                    <QuantityField label="Output at 0 mV" unit="V" value={draft.amplifierOffset} onChange={(amplifierOffset) => change({ amplifierOffset })} error={problem('offset_v')} />
                    <QuantityField
                        label="Amplifier’s temperature"
                        unit="°C"
                        value={draft.coldJunction}
                        onChange={(coldJunction) => change({ coldJunction })}
                        error={problem('cold_junction_c')}
                        help="only where it does not compensate for it"
                    />
                </>
            ) : draft.way === 'slope' ? (
                <SlopeFields draft={draft} definition={definition} change={change} problem={problem} />
            ) : (
                <PointGrid
                    key={draft.way}
                    title={draft.way === 'beta' ? 'Point of the data sheet' : 'Points'}
                    columns={draft.kind === 'thermistor' ? thermistor : [signal, reading]}
                    rows={draft.points}
                    onChange={(points) => change({ points })}
                    purpose={purposes[draft.kind] ?? 'signal'}
                    error={problem('points')}
                />
            )}
            {draft.kind === 'thermistor' && draft.way === 'beta' && <QuantityField label="Beta" unit="K" value={draft.beta} onChange={(beta) => change({ beta })} error={problem('beta_k')} required />}
            {definition.key === 'fuel_level' && (
                <>
                    <QuantityField label="Tank holds" unit="l" value={draft.capacity} onChange={(capacity) => change({ capacity })} error={problem('capacity_l')} placeholder="highest fill" />
                    <QuantityField label="Lamp lights below" unit="%" value={draft.lamp} onChange={(lamp) => change({ lamp })} error={problem('lamp_share_pct')} />
                </>
            )}
            {definition.key === 'flexible_fuel' && (
                <QuantityField
                    label="Keep the reading above"
                    unit="rpm"
                    value={draft.freeze}
                    onChange={(freeze) => change({ freeze })}
                    error={problem('freeze_rpm')}
                    help="flow in the return line disturbs the sensor at speed"
                />
            )}
            {draft.kind !== 'frequency' && (
                <Choice
                    label="Controller’s converter"
                    value={String(draft.bits)}
                    onChange={(bits) => change({ bits: bits === '12' ? 12 : 10 })}
                    options={{ '10': '10 bit', '12': '12 bit' }}
                />
            )}
            <TextField label="Note" value={draft.note} onChange={(event) => change({ note: event.target.value })} multiline maxRows={3} />
        </Stack>
    );
}

/** A slope is a difference: of a unit with an offset only the factor counts. */
function SlopeFields({ draft, definition, change, problem }: Omit<Props, 'purposes'>) {
    const { job } = useJob();
    const zero = toShown(0, definition.unit, job.units);
    const factor = toShown(1, definition.unit, job.units) - zero;
    const per = draft.kind === 'frequency' ? 'Hz' : 'V';
    const unit = definition.unit === 'lambda' && factor !== 1 ? 'AFR' : undefined;
    return (
        <>
            <QuantityField
                label={`Slope, in shown units per ${per}`}
                unit=""
                value={draft.slope === null ? null : draft.slope * factor}
                onChange={(slope) => change({ slope: slope === null ? null : slope / factor })}
                error={problem('slope')}
                required
            />
            <QuantityField
                label={`Reading at 0 ${per}${unit ? ` (${unit})` : ''}`}
                unit={definition.unit}
                value={draft.offset}
                onChange={(offset) => change({ offset })}
                error={problem('offset')}
                required
            />
        </>
    );
}
