import type { Schemas } from '../../api/client';
import { shownUnit, toShown, type UnitChoice } from '../../units/units';
import type { Line, Strip } from '../../parts/Trace';

interface LineSpec {
    channel: string;
    label: string;
    unit: string;
    decimals: number;
    dashed?: boolean;
}

const STRIPS: { height: number; lines: LineSpec[] }[] = [
    { height: 118, lines: [{ channel: 'rpm', label: 'Speed', unit: 'rpm', decimals: 0 }] },
    { height: 66, lines: [{ channel: 'map_kpa', label: 'Manifold', unit: 'kPa', decimals: 0 }] },
    {
        height: 66,
        lines: [
            { channel: 'lambda', label: 'Lambda', unit: 'lambda', decimals: 2 },
            { channel: 'lambda_target', label: 'target', unit: 'lambda', decimals: 2, dashed: true },
        ],
    },
    { height: 58, lines: [{ channel: 'idle_valve_pct', label: 'Valve', unit: '%', decimals: 0 }] },
    { height: 58, lines: [{ channel: 'battery_v', label: 'Battery', unit: 'V', decimals: 1 }] },
    { height: 58, lines: [{ channel: 'pulse_ms', label: 'Pulse', unit: 'ms', decimals: 1 }] },
];

/**
 * The strips of a start trace: those channels that the log has, in display units. Lambda is
 * dashed where the server says that it does not count.
 */
export function stripsOf(
    samples: Schemas['SamplesOut'],
    units: UnitChoice,
    lambdaFromS: number | null,
): Strip[] {
    const lineOf = (spec: LineSpec): Line | null => {
        const values = samples.channels[spec.channel];
        if (!values?.some((value) => value !== null)) return null;
        const unit = shownUnit(spec.unit, units);
        return {
            ...spec,
            unit: unit === 'lambda' ? '' : unit,
            decimals: unit === 'bar' ? 2 : unit === 'psi' || unit === 'AFR' ? 1 : spec.decimals,
            values: values.map((value) => (value === null ? null : toShown(value, spec.unit, units))),
        };
    };
    const from = lambdaFromS ?? Infinity;
    const split = (line: Line): Line[] =>
        line.channel !== 'lambda'
            ? [line]
            : [
                  { ...line, values: line.values.map((v, i) => ((samples.time_s[i] ?? 0) >= from ? v : null)) },
                  {
                      ...line,
                      channel: 'lambda cold',
                      label: 'sensor cold',
                      dashed: true,
                      values: line.values.map((v, i) => ((samples.time_s[i] ?? 0) < from ? v : null)),
                  },
              ];
    return STRIPS.map((strip) => ({
        height: strip.height,
        lines: strip.lines
            .map(lineOf)
            .filter((line) => line !== null)
            .flatMap(split),
    })).filter((strip) => strip.lines.length > 0);
}
