import Box from '@mui/material/Box';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { halfBand, signedPercent, stay } from '../../parts/driven';
import { mono } from '../../parts/theme';
import { formatNumber } from '../../units/units';

type Layer = 'change' | 'factor' | 'band' | 'hits' | 'values';

const LAYERS: Record<Layer, string> = { change: 'Taken by this pass', factor: 'Needed', band: 'Band', hits: 'Seconds', values: 'Map after it' };
const STATES: Record<string, string> = {
    unseen: 'not visited',
    done: 'done',
    step: 'moves',
    half: 'half a step: the sign turned',
    locked: 'locked',
    unsure: 'not told well enough',
    lean: 'no leaner than this under load',
};

/** The map as rows of speed: what each cell needs, how surely, how long it was visited, what is taken. */
export function CorrectionGrid({ result, locked, onLock }: { result: Schemas['FuelPass']; locked: ReadonlySet<string>; onLock: (place: string) => void }) {
    const [locking, setLocking] = useState(false);
    const [layer, setLayer] = useState<Layer>('change');
    const [rpm = [], load = []] = result.axes;
    const cell = (row: number, column: number) => `${result.table} ${row} ${column}`;
    const isCurve = result.table === 'air_meter';
    const text = (row: number, column: number): string => {
        const state = result.state[row]?.[column];
        const at = (grid: number[][]) => grid[row]?.[column] ?? 0;
        if (layer === 'hits') return formatNumber(at(result.hits), 0).replace(/^0$/, '');
        if (layer === 'values') return formatNumber(at(result.values), 1);
        if (state === 'unseen') return '';
        if (layer === 'band') return halfBand(at(result.low), at(result.high));
        return layer === 'factor' ? signedPercent(at(result.factor)) : at(result.change) === 1 ? '·' : signedPercent(at(result.change));
    };
    return (
        <Box component="section" aria-label="Correction of the map">
            <Typography sx={{ mb: 1 }}>{result.sentence}</Typography>
            <ToggleButtonGroup exclusive size="small" value={layer} aria-label="What the cells show" onChange={(_, next: Layer | null) => next && setLayer(next)} sx={{ mb: 1, flexWrap: 'wrap' }}>
                {Object.entries(LAYERS).map(([key, label]) => (
                    <ToggleButton key={key} value={key} sx={{ textTransform: 'none', minHeight: 40 }}>
                        {label}
                    </ToggleButton>
                ))}
            </ToggleButtonGroup>
            <ToggleButton value="lock" size="small" selected={locking} onChange={() => setLocking(!locking)} sx={{ ml: 1, mb: 1, textTransform: 'none', minHeight: 40, verticalAlign: 'top' }}>
                Lock cells
            </ToggleButton>
            <Box sx={{ overflowX: 'auto' }} tabIndex={0} role="region" aria-label="Cells">
                <Box component="table" sx={{ borderCollapse: 'collapse', fontFamily: mono, fontSize: '0.85rem' }}>
                    <thead>
                        <tr>
                            <Head>{layer === 'values' ? (isCurve ? 'g/s' : '%') : layer === 'hits' ? 's' : '%'}</Head>
                            {load.map((point) => (
                                <Head key={point}>
                                    {formatNumber(point, result.load_unit === 'V' ? 2 : 0)} {result.load_unit}
                                </Head>
                            ))}
                        </tr>
                    </thead>
                    <tbody>
                        {rpm.map((speed, row) => (
                            <tr key={speed}>
                                <Head>{isCurve ? '' : `${formatNumber(speed, 0)} rpm`}</Head>
                                {load.map((point, column) => (
                                    <Box
                                        component="td"
                                        key={point}
                                        title={STATES[result.state[row]?.[column] ?? ''] ?? ''}
                                        sx={{ border: 1, borderColor: 'divider', px: 0.75, py: 0.4, textAlign: 'right', minWidth: 54, bgcolor: shade(result, row, column), color: 'text.primary' }}
                                    >
                                        {locking ? (
                                            <Box component="button" type="button" aria-pressed={locked.has(cell(row, column))} aria-label={`Lock row ${row + 1}, column ${column + 1}`} onClick={() => onLock(cell(row, column))} sx={{ all: 'unset', cursor: 'pointer', display: 'block', width: '100%', minHeight: 28, '&:focus-visible': { outline: 2, outlineColor: 'primary.main' } }}>
                                                {locked.has(cell(row, column)) ? 'stays' : text(row, column) || '–'}
                                            </Box>
                                        ) : locked.has(cell(row, column)) ? (
                                            'stays'
                                        ) : (
                                            text(row, column)
                                        )}
                                    </Box>
                                ))}
                            </tr>
                        ))}
                    </tbody>
                </Box>
            </Box>
            <Typography variant="caption" component="p" sx={{ mt: 0.5 }}>
                Rows are speed, columns load. Dark cells were visited long; a dot stays as it is, an empty cell was not visited.{locked.size > 0 && ` ${locked.size} ${locked.size === 1 ? 'cell stays' : 'cells stay'} as set at the next solve.`}
            </Typography>
        </Box>
    );
}

function Head({ children }: { children: React.ReactNode }) {
    return (
        <Box component="th" scope="col" sx={{ px: 0.75, py: 0.4, textAlign: 'right', color: 'text.secondary', fontWeight: 600, whiteSpace: 'nowrap' }}>
            {children}
        </Box>
    );
}

/** How long a cell was visited, as a shade. */
function shade(result: Schemas['FuelPass'], row: number, column: number): string {
    const share = stay(result.hits[row]?.[column] ?? 0);
    return share === 0 ? 'transparent' : `rgba(var(--mui-palette-primary-mainChannel) / ${0.05 + 0.22 * share})`;
}
