import type { Injectors, Supply } from '../../api/client';
import type { Row } from '../../parts/PointGrid';

/** Injectors while they are typed. */
export interface InjectorDraft {
    name: string;
    count: number | null;
    flow: number | null;
    unit: Injectors['flow_unit'];
    fluid: Injectors['fluid'];
    density: number | null;
    rated: number | null;
    /** Voltage, then dead time at each pressure. */
    deadTime: Row[];
    /** Pressures of the columns; empty while it is known at one only. */
    pressures: number[];
    /** Flow, and need of the cylinder where it is known. */
    report: Row[];
    reportPressure: number | null;
    resistance: number | null;
    driver: Injectors['driver'];
    smallest: number | null;
    injections: number | null;
    signals: Injectors['signals'];
    target: number | null;
    provenance: Injectors['provenance'];
    note: string;
    override: string;
}

export function injectorDraft(entry: Injectors): InjectorDraft {
    const voltages = entry.dead_time?.voltage_v ?? [];
    const curves = entry.dead_time?.dead_time_ms ?? [];
    return {
        name: entry.name,
        count: entry.count,
        flow: entry.flow,
        unit: entry.flow_unit,
        fluid: entry.fluid,
        density: entry.fluid_density_kg_m3 ?? null,
        rated: entry.rated_pressure_kpa,
        deadTime: voltages.map((volts, i) => [volts, ...curves.map((curve) => curve[i] ?? null)]),
        pressures: entry.dead_time?.pressure_kpa ?? [],
        report: (entry.report?.flows ?? []).map((flow, i) => [flow, entry.report?.needs_pct?.[i] ?? null]),
        reportPressure: entry.report?.pressure_kpa ?? null,
        resistance: entry.resistance_ohm ?? null,
        driver: entry.driver,
        smallest: entry.smallest_open_ms ?? null,
        injections: entry.injections_per_cycle,
        signals: entry.signals,
        target: entry.target_power_kw ?? null,
        provenance: entry.provenance,
        note: entry.note,
        override: entry.override_reason,
    };
}

const isWhole = (row: Row): row is number[] => row.length > 0 && row.every((cell) => cell !== null);

/** The injectors to send; null while count, flow or rated pressure is missing. */
export function injectorsOf(draft: InjectorDraft): Injectors | null {
    if (draft.count === null || draft.flow === null || draft.rated === null) return null;
    const width = 1 + Math.max(1, draft.pressures.length);
    const dead = draft.deadTime.map((row) => row.slice(0, width)).filter(isWhole);
    const flows = draft.report.filter((row) => typeof row[0] === 'number');
    const needs = flows.map((row) => row[1] ?? null);
    return {
        name: draft.name,
        count: draft.count,
        flow: draft.flow,
        flow_unit: draft.unit,
        fluid: draft.fluid,
        fluid_density_kg_m3: draft.fluid === 'own' ? draft.density : null,
        rated_pressure_kpa: draft.rated,
        dead_time: dead.length
            ? {
                  voltage_v: dead.map((row) => row[0] ?? 0),
                  dead_time_ms: Array.from({ length: width - 1 }, (_, i) => dead.map((row) => row[i + 1] ?? 0)),
                  pressure_kpa: draft.pressures.length ? draft.pressures : null,
              }
            : null,
        report: flows.length
            ? {
                  flows: flows.map((row) => row[0] ?? 0),
                  pressure_kpa: draft.reportPressure,
                  needs_pct: isWhole(needs) ? needs : null,
              }
            : null,
        resistance_ohm: draft.resistance,
        driver: draft.driver,
        smallest_open_ms: draft.smallest,
        injections_per_cycle: draft.injections ?? 1,
        signals: draft.signals,
        target_power_kw: draft.target,
        provenance: draft.provenance,
        note: draft.note,
        override_reason: draft.override,
    };
}

/** A supply while it is typed. */
export interface SupplyDraft {
    name: string;
    /** Voltage, pressure, flow. */
    readings: Row[];
    regulator: Supply['regulator'];
    rail: number | null;
    loss: number | null;
    lossAt: number | null;
    voltage: number | null;
    prime: Row[];
    decay: Row[];
    provenance: Supply['provenance'];
    note: string;
}

export function supplyDraft(entry: Supply): SupplyDraft {
    return {
        name: entry.name,
        readings: entry.readings.map((row) => [row.voltage_v, row.pressure_kpa, row.flow_l_h]),
        regulator: entry.regulator,
        rail: entry.rail_pressure_kpa,
        loss: entry.line_loss_kpa,
        lossAt: entry.line_loss_at_l_h,
        voltage: entry.voltage_v,
        prime: entry.prime ?? [],
        decay: entry.decay ?? [],
        provenance: entry.provenance,
        note: entry.note,
    };
}

/** The supply to send; null while there is no pump reading or no rail pressure. */
export function supplyFrom(draft: SupplyDraft): Supply | null {
    const readings = draft.readings.filter(isWhole);
    if (!readings.length || draft.rail === null) return null;
    const pairs = (rows: Row[]) => {
        const whole = rows.filter(isWhole);
        return whole.length ? whole : null;
    };
    return {
        name: draft.name,
        readings: readings.map(([voltage_v = 0, pressure_kpa = 0, flow_l_h = 0]) => ({ voltage_v, pressure_kpa, flow_l_h })),
        regulator: draft.regulator,
        rail_pressure_kpa: draft.rail,
        // What is left empty is the server's to fill.
        ...(draft.loss === null ? {} : { line_loss_kpa: draft.loss }),
        ...(draft.lossAt === null ? {} : { line_loss_at_l_h: draft.lossAt }),
        ...(draft.voltage === null ? {} : { voltage_v: draft.voltage }),
        prime: pairs(draft.prime),
        decay: pairs(draft.decay),
        provenance: draft.provenance,
        note: draft.note,
    } as Supply;
}
