import Box from '@mui/material/Box';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { formatNumber, fromShown, parseNumber, shownUnit, toShown } from '../../units/units';
import { CurvePlot, type Series } from '../../parts/CurvePlot';
import { PointGrid } from '../../parts/PointGrid';
import { SmallTable } from '../../parts/SmallTable';
import { useShown } from '../../parts/useShown';
import type { InjectorDraft } from './draft';

interface Props {
    draft: InjectorDraft;
    change: (part: Partial<InjectorDraft>) => void;
    sheet: Schemas['InjectorSheet'] | undefined;
    problem: (name: string) => string | undefined;
}

const ORIGINS: Record<string, string> = {
    data: 'data',
    interpolated: 'between the data',
    extrapolated: 'beyond the data',
    held: 'beyond, end held',
};

/** Dead time as entered, and on the controller's own axis. */
export function DeadTime({ draft, change, sheet, problem }: Props) {
    const { job } = useJob();
    const shown = useShown();
    const [text, setText] = useState(() => draft.pressures.map((p) => String(Math.round(toShown(p, 'kPa', job.units) * 10) / 10)).join('  '));
    const several = draft.pressures.length > 1;
    const columns = [
        { title: 'Voltage', unit: 'V' },
        ...(several
            ? draft.pressures.map((pressure) => ({ title: `ms at ${shown(pressure, 'kPa', 0)}`, unit: '' }))
            : [{ title: 'Dead time', unit: 'ms' }]),
    ];
    const width = columns.length;
    const rows = draft.deadTime.map((row) => Array.from({ length: width }, (_, i) => row[i] ?? null));
    const entered: Series[] = columns.slice(1).map((column, i) => ({
        name: several ? column.title : 'as entered',
        look: 'faint',
        points: rows.filter((row) => row[0] !== null).map((row) => [row[0] ?? 0, row[i + 1] ?? null] as const),
    }));
    const cells = sheet?.dead_time ?? [];
    return (
        <Box component="section" aria-label="Dead time" sx={{ mb: 3 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Dead time
            </Typography>
            <Box sx={{ display: 'grid', gap: 3, gridTemplateColumns: { xs: 'minmax(0, 1fr)', sm: '240px minmax(0, 1fr)', lg: '260px minmax(0, 1fr) 250px' }, alignItems: 'start' }}>
                <Box>
                    <PointGrid
                        title="Data sheet"
                        columns={columns}
                        rows={rows}
                        onChange={(deadTime) => change({ deadTime })}
                        {...(several ? {} : { purpose: 'dead_time' })}
                        error={problem('dead_time')}
                    />
                    <TextField
                        label={`Known at several pressures, ${shownUnit('kPa', job.units)}`}
                        value={text}
                        onChange={(event) => {
                            setText(event.target.value);
                            const numbers = event.target.value.split(/[\s;]+/).filter(Boolean).map(parseNumber);
                            const whole = numbers.filter((number): number is number => number !== null);
                            if (whole.length === numbers.length) change({ pressures: whole.map((number) => fromShown(number, 'kPa', job.units)) });
                        }}
                        placeholder="one column each"
                        fullWidth
                        sx={{ mt: 1.5 }}
                        slotProps={{ inputLabel: { shrink: true } }}
                    />
                </Box>
                <CurvePlot
                    title="Dead time over battery voltage"
                    xLabel="battery, V"
                    yLabel="dead time, ms"
                    series={[...entered, { name: 'on the controller’s axis, at this rail', points: cells.map((cell) => [cell.voltage_v, cell.dead_time_ms] as const) }]}
                    dots={several ? [] : rows.filter((row): row is number[] => row.every((cell) => cell !== null)).map(([volts = 0, ms = 0]) => [volts, ms] as const)}
                    height={260}
                />
                {cells.length > 0 && (
                    <SmallTable
                        title="For the controller"
                        heads={['V', 'ms', 'how']}
                        rows={cells.map((cell) => [formatNumber(cell.voltage_v, 1), formatNumber(cell.dead_time_ms, 2), ORIGINS[cell.origin] ?? cell.origin])}
                        {...(sheet?.dead_time_outside ? { foot: 'The rail lies outside the pressures of the data: the nearest is held.' } : {})}
                    />
                )}
            </Box>
        </Box>
    );
}
