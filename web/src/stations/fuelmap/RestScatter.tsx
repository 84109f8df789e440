import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { Choice } from '../../parts/Choice';
import { CurvePlot } from '../../parts/CurvePlot';

type Against = Exclude<keyof Schemas['Rests'], 'need_pct' | 'rest_pct'>;

const AGAINST: Record<Against, string> = {
    net_ms: 'Net pulse, ms',
    map_kpa: 'Manifold pressure, kPa',
    flow_pct: 'Fuel flow, % of the most',
    rpm: 'Speed, rpm',
    intake_c: 'Intake air, °C',
    fuel_kpa: 'Fuel pressure, kPa',
};
const WHAT = { need_pct: 'Fuel asked for', rest_pct: 'Left after the solve' };

/** Readings of a pass against the quantity in which a cause would show. */
export function RestScatter({ rests, tells }: { rests: Schemas['Rests']; tells: Record<string, string> }) {
    const [what, setWhat] = useState<keyof typeof WHAT>('need_pct');
    const [against, setAgainst] = useState<Against>('net_ms');
    const values = rests[what] ?? [];
    const dots = (rests[against] ?? []).flatMap((x, place): [number, number][] => (x === null ? [] : [[x, values[place] ?? 0]]));
    if (!values.length) return null;
    return (
        <Box component="section" aria-label="Readings against a quantity" sx={{ mt: 2, maxWidth: 640 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Where it differs
            </Typography>
            <Box sx={{ display: 'flex', gap: 1, mb: 1 }}>
                <Choice label="What" value={what} onChange={(key) => setWhat(key as keyof typeof WHAT)} options={WHAT} width={230} />
                <Choice label="Against" value={against} onChange={(key) => setAgainst(key as Against)} options={AGAINST} width={240} />
            </Box>
            {dots.length ? <CurvePlot title={`${WHAT[what]} against ${AGAINST[against]}`} xLabel={AGAINST[against]} yLabel="%" series={[]} dots={dots} yLimits={[{ at: 0, label: '' }]} height={260} /> : <Typography variant="body2">These logs do not hold it.</Typography>}
            <Typography variant="caption" component="p">
                {tells[against]}
            </Typography>
        </Box>
    );
}
