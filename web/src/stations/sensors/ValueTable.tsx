import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { formatNumber, parseNumber, shownUnit, toShown } from '../../units/units';
import type { SensorFunction } from './draft';
import type { TableAxis } from './SensorEditor';

interface Props {
    definition: SensorFunction;
    signalUnit: string;
    rows: Schemas['TableRow'][];
    hasResistance: boolean;
    chosen: TableAxis;
    onChoose: (axis: TableAxis) => void;
    saved: boolean;
}

/** The readings on the controller's own axis, to be typed or copied into it. */
export function ValueTable({ definition, signalUnit, rows, hasResistance, chosen, onChoose, saved }: Props) {
    const { job } = useJob();
    const [axis, setAxis] = useState('');
    const [copied, setCopied] = useState(false);
    const unit = chosen.of === 'resistance' ? 'Ω' : signalUnit;
    const shown = (value: number) => formatNumber(toShown(value, definition.unit, job.units), definition.decimals);
    const readingUnit = shownUnit(definition.unit, job.units);
    const choose = (of: TableAxis['of'], text: string) => {
        const numbers = text.split(/[\s;]+/).filter(Boolean).map(parseNumber);
        const whole = numbers.filter((number): number is number => number !== null);
        if (whole.length === numbers.length) onChoose({ of, axis: whole.length ? whole : null });
    };
    const copy = () => {
        const lines = rows.map((row) => `${row.at}\t${shown(row.value).replace('−', '-')}`);
        void navigator.clipboard.writeText([`${unit}\t${readingUnit}`, ...lines].join('\n')).then(() => setCopied(true));
    };
    const query = new URLSearchParams({ of: chosen.of, axis: (chosen.axis ?? []).join(' ') });
    return (
        <Box sx={{ mb: 2 }}>
            <Stack direction="row" sx={{ alignItems: 'center', flexWrap: 'wrap', gap: 1.5, mb: 1 }}>
                <Typography variant="h2" sx={{ flex: 1, minWidth: 200 }}>
                    For the controller&rsquo;s table
                </Typography>
                {hasResistance && <OverWhat chosen={chosen} onOver={(of) => { setAxis(''); onChoose({ of, axis: null }); }} />}
                <TextField
                    label={`Own breakpoints, ${unit}`}
                    value={axis}
                    onChange={(event) => {
                        setAxis(event.target.value);
                        choose(chosen.of, event.target.value);
                    }}
                    placeholder="0,5 1 1,5 2 …"
                    sx={{ width: 220 }}
                    slotProps={{ inputLabel: { shrink: true } }}
                />
                <Button variant="outlined" onClick={copy}>
                    {copied ? 'Copied' : 'Copy'}
                </Button>
                <Button
                    variant="outlined"
                    component="a"
                    disabled={!saved}
                    href={`/api/jobs/${job.id}/sensors/${definition.key}/table.csv?${query.toString()}`}
                    download
                >
                    {saved ? 'CSV' : 'CSV once saved'}
                </Button>
            </Stack>
            <Box role="list" aria-label="Value table" sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(96px, 1fr))', borderTop: 1, borderLeft: 1, borderColor: 'divider' }}>
                {rows.map((row) => <ReadingCell key={row.at} row={row} unit={unit} shown={shown} readingUnit={readingUnit} />)}
            </Box>
            {rows.some((row) => row.extrapolated) && (
                <Typography variant="caption">Italics: extrapolated beyond the entered data.</Typography>
            )}
        </Box>
    );
}

interface ReadingCellProps {
    row: Schemas['TableRow'];
    unit: string;
    shown: (value: number) => string;
    readingUnit: string;
}

/** One reading at one point of the axis. */
function ReadingCell({ row, unit, shown, readingUnit }: ReadingCellProps) {
    return (
        <Box
            role="listitem"
            title={row.extrapolated ? 'extrapolated: beyond the entered data' : undefined}
            sx={{ px: 1, py: 0.4, textAlign: 'right', fontFamily: mono, borderRight: 1, borderBottom: 1, borderColor: 'divider' }}
        >
            <Box sx={{ fontSize: '0.82rem', color: 'text.secondary' }}>
                {formatNumber(row.at, row.at >= 100 ? 0 : row.at >= 10 ? 1 : 2)} {unit}
            </Box>
            <Box
                sx={{
                    fontStyle: row.extrapolated ? 'italic' : 'normal',
                    color: row.extrapolated ? 'warning.main' : 'text.primary',
                    fontWeight: row.extrapolated ? 400 : 600,
                }}
            >
                {shown(row.value)}
                {readingUnit === 'lambda' ? '' : ` ${readingUnit}`}
            </Box>
        </Box>
    );
}

/** Whether the table runs over voltage or resistance. */
function OverWhat({ chosen, onOver }: { chosen: TableAxis; onOver: (of: TableAxis['of']) => void }) {
    return (
        <ToggleButtonGroup
            exclusive
            size="small"
            value={chosen.of}
            aria-label="Axis of the table"
            onChange={(_, of: TableAxis['of'] | null) => {
                if (!of) return;
                onOver(of);
            }}
        >
            <ToggleButton value="signal" sx={{ textTransform: 'none' }}>
                over voltage
            </ToggleButton>
            <ToggleButton value="resistance" sx={{ textTransform: 'none' }}>
                over resistance
            </ToggleButton>
        </ToggleButtonGroup>
    );
}
