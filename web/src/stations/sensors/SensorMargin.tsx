import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Hardware, Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { inUnits } from '../../units/said';
import { formatNumber, shownUnit, toShown } from '../../units/units';
import { Facts } from '../../parts/Facts';
import { SmallTable } from '../../parts/SmallTable';
import type { Kind, SensorFunction } from './draft';

interface Props {
    definition: SensorFunction;
    answer: Schemas['SensorPreviewOut'] | undefined;
    kind: Kind;
    hardware: Hardware;
}

/** What follows from the sensor: residual, resolution, fault limits, and what a mistake would read. */
export function SensorMargin({ definition, answer, kind, hardware }: Props) {
    const { job } = useJob();
    if (!answer) {
        return (
            <Typography variant="body2">
                Begin from a known sensor or enter its points. Residual, resolution, fault limits and the table for the
                controller stand here while you type.
            </Typography>
        );
    }
    const { sheet, fuel_level: level } = answer;
    const unit = shownUnit(definition.unit, job.units);
    const factor = toShown(1, definition.unit, job.units) - toShown(0, definition.unit, job.units);
    const reading = (value: number) => formatNumber(toShown(value, definition.unit, job.units), definition.decimals);
    const difference = (value: number) => formatNumber(value * factor, definition.decimals + 1);
    const limits = sheet.fault_limits;
    const limit = (value: number | null | undefined) => (typeof value === 'number' ? `${formatNumber(value, sheet.signal_unit === 'Hz' ? 0 : 2)} ${sheet.signal_unit}` : 'none');
    return (
        <Box>
            {sheet.remarks.map((remark) => (
                <Typography key={remark} variant="body2" sx={{ borderLeft: 3, borderColor: 'warning.main', pl: 1, mb: 1 }}>
                    {inUnits(remark)}
                </Typography>
            ))}
            <Typography variant="h3">The curve</Typography>
            <Typography variant="body2" sx={{ mb: 2 }}>
                {sheet.residuals.length
                    ? `Largest residual ${difference(sheet.worst_residual)} ${unit}. `
                    : ''}
                Data from {reading(sheet.known_low)} to {reading(sheet.known_high)} {unit}; beyond, it is extrapolated.
            </Typography>
            {sheet.resolutions.some((row) => typeof row.step === 'number') && <OneCount unit={unit} sheet={sheet} reading={reading} difference={difference} />}
            <Typography variant="h3">Fault limits</Typography>
            <Typography variant="body2">
                Below <b>{limit(limits.below)}</b>: {limits.below_means}.
            </Typography>
            <Typography variant="body2" sx={{ mb: 2 }}>
                Above <b>{limit(limits.above)}</b>: {limits.above_means}.
            </Typography>
            {level && <FuelLevel level={level} />}
            {kind === 'frequency' && definition.key === 'flexible_fuel' && <FuelsOnSale hardware={hardware} />}
        </Box>
    );
}

interface OneCountProps {
    unit: string;
    sheet: Schemas['SensorPreviewOut']['sheet'];
    reading: (value: number) => string;
    difference: (value: number) => string;
}

/** What one count of the converter is worth, along the curve. */
function OneCount({ unit, sheet, reading, difference }: OneCountProps) {
    return (
        <SmallTable
            title="One count of the converter"
            heads={[`at, ${unit}`, sheet.signal_unit, `step, ${unit}`]}
            rows={sheet.resolutions.map((row) => [
                reading(row.at) + (row.extrapolated ? ' *' : ''),
                formatNumber(row.signal, 2),
                typeof row.step === 'number' ? difference(row.step) : '–',
            ])}
            {...(sheet.resolutions.some((row) => row.extrapolated) ? { foot: '* extrapolated' } : {})}
        />
    );
}

/** What the fuels that are sold would read. */
function FuelsOnSale({ hardware }: { hardware: Hardware }) {
    return (
        <SmallTable
            title="Fuels on sale"
            heads={['', 'Hz', 'air : fuel', 'volume']}
            rows={hardware.sold_fuels.map((fuel) => [
                fuel.title,
                formatNumber(fuel.signal_hz, 0),
                formatNumber(fuel.stoichiometric_afr, 2),
                `× ${formatNumber(fuel.volume_factor, 2)}`,
            ])}
            foot="Volume: fuel for the same air, against petrol."
            wide
        />
    );
}

/** Where the low-fuel lamp lights, and the volume table. */
function FuelLevel({ level }: { level: NonNullable<Schemas['SensorPreviewOut']['fuel_level']> }) {
    return (
        <>
            <Facts
                title="Low-fuel lamp"
                facts={[
                    { name: 'Lights below', value: level.lamp_l, unit: 'l', decimals: 1 },
                    { name: 'That is a signal of', value: level.lamp_v, unit: 'V', decimals: 2 },
                ]}
            />
            <SmallTable
                title="Volume table"
                heads={['full, %', 'litres', 'V']}
                rows={level.volumes.map(([share = 0, litres = 0, volts = 0]) => [
                    formatNumber(share, 0),
                    formatNumber(litres, 1),
                    formatNumber(volts, 2),
                ])}
            />
        </>
    );
}
