import Box from '@mui/material/Box';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import type { Believed, Estimate } from '../../api/ladder';
import { CurvePlot } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { shownUnit, toShown } from '../../units/units';

interface Props {
    estimate: Estimate;
    definitions: Schemas['TableDefinition'][];
    table: string;
    onTable: (table: string) => void;
}

/** One table over temperature: in force, believed with its band, by engine data, and what was read. */
export function CurvesPanel({ estimate, definitions, table, onTable }: Props) {
    const { job } = useJob();
    const key = table in estimate.tables ? table : (Object.keys(estimate.tables)[0] ?? '');
    const curve = estimate.tables[key];
    const definition = definitions.find((entry) => entry.key === key);
    if (!curve || !definition) return null;
    const celsius = (value: number) => toShown(value, '°C', job.units);
    const line = (values: number[]) => curve.points.map((c, i) => [celsius(c), values[i] ?? null] as const);
    const read = estimate.evidence.filter((e) => e.table === key && e.kind === 'measured');
    return (
        <Box component="section" aria-label="Curves">
            <ToggleButtonGroup
                exclusive
                size="small"
                value={key}
                onChange={(_, chosen: string | null) => chosen && onTable(chosen)}
                aria-label="Table"
                sx={{ flexWrap: 'wrap', mb: 1 }}
            >
                {Object.keys(estimate.tables).map((entry) => (
                    <ToggleButton key={entry} value={entry} sx={{ minHeight: 40 }}>
                        {definitions.find((d) => d.key === entry)?.title ?? entry}
                    </ToggleButton>
                ))}
            </ToggleButtonGroup>
            <Box sx={{ maxWidth: 680 }}>
            <CurvePlot
                title={`${definition.title} over coolant temperature`}
                xLabel={`coolant, ${shownUnit('°C', job.units)}`}
                yLabel={definition.unit}
                series={[
                    { name: 'in force', points: line(curve.now) },
                    { name: 'believed', points: line(curve.value), look: 'broken' },
                    { name: 'nine of ten lie between', points: line(curve.low), look: 'faint' },
                    { name: '', points: line(curve.high), look: 'faint' },
                ]}
                dots={dotsOf(key, curve, read).map(([c, value]) => [celsius(c), value] as const)}
                height={320}
            />
            </Box>
            <Typography variant="body2" color="text.secondary">
                {read.length > 0 ? 'Rings are readings of logs. ' : 'No log has measured this table yet. '}
                {key === 'cranking_fuel' &&
                    'Cranking fuel is not measured: outcomes on both sides of it say where it lies, so its band is wide at first.'}
            </Typography>
        </Box>
    );
}

/** Readings that lie in the picture; openings while cranking hold the idle valve too and are left out. */
function dotsOf(table: string, curve: Believed, read: Estimate['evidence']): [number, number][] {
    if (table === 'cranking_air') return [];
    const first = curve.points[0] ?? 0;
    const last = curve.points.at(-1) ?? 0;
    return read.filter((e) => e.coolant_c >= first && e.coolant_c <= last).map((e) => [e.coolant_c, e.value]);
}
