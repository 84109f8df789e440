/** Units as the server tells them, for the tests: factors of published definitions. */
import { learnUnits, type UnitChoice } from '@/units/units';

export const METRIC: UnitChoice = { temperature: '°C', pressure: 'kPa', injector_flow: 'cm³/min', mixture: 'lambda' };
export const IMPERIAL: UnitChoice = { temperature: '°F', pressure: 'psi', injector_flow: 'lb/h', mixture: 'AFR' };
export const BAR: UnitChoice = { ...METRIC, pressure: 'bar' };

/** 1 psi is 6.894757 kPa (NIST SP 811); lb/h at 745 kg/m³; AFR of petrol 14.7 (common practice). */
export function knowUnits(): void {
    learnUnits(
        { temperature: ['°C', '°F'], pressure: ['kPa', 'psi', 'bar'], injector_flow: ['cm³/min', 'lb/h'], mixture: ['lambda', 'AFR'] },
        {
            temperature: { '°C': { factor: 1, offset: 0 }, '°F': { factor: 1.8, offset: 32 } },
            pressure: { kPa: { factor: 1, offset: 0 }, psi: { factor: 1 / 6.894757, offset: 0 }, bar: { factor: 0.01, offset: 0 } },
            injector_flow: { 'cm³/min': { factor: 1, offset: 0 }, 'lb/h': { factor: (0.745 * 60) / 453.59237, offset: 0 } },
            mixture: { lambda: { factor: 1, offset: 0 }, AFR: { factor: 14.7, offset: 0 } },
        },
    );
}
