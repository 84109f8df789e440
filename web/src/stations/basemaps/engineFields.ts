import type { Schemas } from '../../api/client';

export type Engine = Schemas['EngineEntry'];

/** A number of the engine that is typed here; injectors and supply have their own station. */
export interface EngineField {
    key: keyof Engine;
    label: string;
    unit: string;
    /** Only where it means something. */
    when?: (engine: Engine) => boolean;
    isNeeded?: boolean;
    help?: string;
}

const isPiston = (engine: Engine) => engine.cycle === 'four_stroke';
const isBoosted = (engine: Engine) => engine.induction === 'boosted';

export const BLOCK_FIELDS: EngineField[] = [
    { key: 'displacement_l', label: 'Displacement', unit: 'l', isNeeded: true },
    { key: 'chambers', label: 'Cylinders or rotors', unit: '', isNeeded: true },
    { key: 'compression_ratio', label: 'Compression', unit: ':1', isNeeded: true },
    { key: 'valves_per_chamber', label: 'Valves each', unit: '', isNeeded: true, when: isPiston },
    { key: 'bore_mm', label: 'Bore', unit: 'mm', when: isPiston },
    { key: 'stroke_mm', label: 'Stroke', unit: 'mm', when: isPiston },
    { key: 'torque_peak_rpm', label: 'Torque peak', unit: 'rpm' },
    { key: 'rev_limit_rpm', label: 'Own rev limit', unit: 'rpm', isNeeded: true },
];

export const CAM_FIELDS: EngineField[] = [
    { key: 'cam_duration_deg', label: 'Duration', unit: '°', help: 'advertised' },
    { key: 'lobe_separation_deg', label: 'Lobe separation', unit: '°' },
    { key: 'cam_lift_mm', label: 'Valve lift', unit: 'mm' },
];

export const CHARGE_FIELDS: EngineField[] = [
    { key: 'boost_kpa', label: 'Highest boost', unit: 'kPa', isNeeded: true, when: isBoosted },
    { key: 'boost_full_rpm', label: 'Full boost from', unit: 'rpm', when: isBoosted },
    { key: 'wastegate_kpa', label: 'Wastegate boost', unit: 'kPa', when: isBoosted, help: 'measured, valve at rest' },
    { key: 'altitude_m', label: 'Altitude', unit: 'm', isNeeded: true },
];
