import type { Schemas } from '../../api/client';

export type Engine = Schemas['EngineEntry'];

/** A number of the engine that is typed here, by its short name; its unit, and whether it may be empty, is the server's. */
export interface EngineField {
    key: keyof Engine;
    label: string;
    /** Only where it means something. */
    when?: (engine: Engine) => boolean;
    help?: string;
}

const isPiston = (engine: Engine) => engine.cycle === 'four_stroke';
const isPort = (engine: Engine) => engine.fuelling === 'port' && engine.cycle !== 'rotary';
const isBoosted = (engine: Engine) => engine.induction === 'boosted';

export const BLOCK_FIELDS: EngineField[] = [
    { key: 'displacement_l', label: 'Displacement' },
    { key: 'chambers', label: 'Cylinders or rotors' },
    { key: 'compression_ratio', label: 'Compression' },
    { key: 'valves_per_chamber', label: 'Valves each', when: isPiston },
    { key: 'bore_mm', label: 'Bore', when: isPiston },
    { key: 'stroke_mm', label: 'Stroke', when: isPiston },
    { key: 'torque_peak_rpm', label: 'Torque peak' },
    { key: 'rev_limit_rpm', label: 'Own rev limit' },
];

export const CAM_FIELDS: EngineField[] = [
    { key: 'cam_duration_deg', label: 'Duration', help: 'advertised' },
    { key: 'lobe_separation_deg', label: 'Lobe separation' },
    { key: 'cam_lift_mm', label: 'Valve lift' },
];

export const CHARGE_FIELDS: EngineField[] = [
    { key: 'boost_kpa', label: 'Highest boost', when: isBoosted },
    { key: 'boost_full_rpm', label: 'Full boost from', when: isBoosted },
    { key: 'wastegate_kpa', label: 'Wastegate boost', when: isBoosted, help: 'measured, valve at rest' },
    { key: 'altitude_m', label: 'Altitude' },
];

/** What a cold start depends on beside the block: each may stay empty. */
export const START_FIELDS: EngineField[] = [
    { key: 'cranking_rpm', label: 'Cranking speed', help: 'cold, full battery' },
    { key: 'port_volume_cm3', label: 'Port and runner', help: 'of one, behind the injector', when: isPort },
    { key: 'coolant_l', label: 'Coolant' },
    { key: 'oil_l', label: 'Oil' },
];
