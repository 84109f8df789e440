/** Small calibrations for the tests. */
import type { Calibration, Schemas } from '@/api/client';

const MARK: Schemas['Provenance'] = { kind: 'assumed', reason: 'Of a test.', source: '' };

/** A calibration of curves over coolant temperature. */
export function calibration(revision: number, curves: Record<string, number[]>): Calibration {
    const tables = Object.fromEntries(
        Object.entries(curves).map(([key, values]) => [
            key,
            {
                unit: '%',
                axes: [{ name: 'coolant_c', unit: '°C', points: values.map((_, i) => -20 + 20 * i) }],
                values,
                provenance: values.map(() => MARK),
            },
        ]),
    );
    return { revision, note: '', tables, settings: { boost_limit: { unit: 'kPa', value: 170, provenance: MARK } } } as unknown as Calibration;
}
