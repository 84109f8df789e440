import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useRef, useState, type PointerEvent } from 'react';

import { mono } from '../theme';
import { formatNumber } from '../../units/units';
import { CHART_LETTERS_PX, useWidth } from '../useWidth';

export interface Slice {
    title: string;
    xLabel: string;
    points: readonly number[];
    values: readonly number[];
    saved: readonly number[];
    /** Which point is selected. */
    at: number;
    cursor: number | null;
}

interface Props {
    slice: Slice;
    unit: string;
    decimals: number;
    lower: number;
    upper: number;
    onMove: (point: number, value: number) => void;
    onSelect: (point: number) => void;
    height?: number;
    width?: number;
}

const LEFT = 50;
const RIGHT = 16;
const TOP = 14;
const BOTTOM = 42;
/** A wider curve grows taller by no more than this. */
const MOST_SHAPE = 1.5;

/** Breakpoints whose numbers do not run into each other. */
function spaced(points: readonly number[], px: (x: number) => number, apart: number): number[] {
    const result: number[] = [];
    for (const point of points) {
        const before = result.at(-1);
        if (before === undefined || px(point) - px(before) >= apart) result.push(point);
    }
    return result;
}

/** The selected row or column as a curve; its points can be taken and drawn to another value. */
export function SliceCurve({ slice, unit, decimals, lower, upper, onMove, onSelect, height: wanted = 190, width: before = 330 }: Props) {
    const [frame, width] = useWidth(before);
    const height = Math.round(wanted * Math.min(MOST_SHAPE, Math.max(1, width / before)));
    const svg = useRef<Element | null>(null);
    const [held, setHeld] = useState<{ point: number; value: number } | null>(null);
    const { points, saved } = slice;
    const values = held ? slice.values.map((value, i) => (i === held.point ? held.value : value)) : slice.values;
    const all = [...slice.values, ...saved];
    const low = Math.min(...all);
    const high = Math.max(...all);
    const pad = Math.max((high - low) * 0.12, 10 ** -decimals * 5);
    const y0 = Math.max(lower, low - pad);
    const y1 = Math.min(upper, high + pad);
    const x0 = points[0] ?? 0;
    const x1 = points.at(-1) ?? 1;
    const px = (x: number) => LEFT + ((x - x0) / (x1 - x0 || 1)) * (width - LEFT - RIGHT);
    const py = (y: number) => height - BOTTOM - ((y - y0) / (y1 - y0 || 1)) * (height - TOP - BOTTOM);
    const valueAt = (event: PointerEvent): number => {
        const box = svg.current?.getBoundingClientRect();
        if (!box) return 0;
        const y = ((event.clientY - box.top) / box.height) * height;
        const value = y0 + ((height - BOTTOM - y) / (height - TOP - BOTTOM)) * (y1 - y0);
        return Math.min(upper, Math.max(lower, value));
    };
    const path = (line: readonly number[]) =>
        line.map((value, i) => `${i ? 'L' : 'M'}${px(points[i] ?? 0).toFixed(1)} ${py(value).toFixed(1)}`).join('');
    const ink = 'var(--mui-palette-ink-main)';
    const ticks = [y0, (y0 + y1) / 2, y1];
    const few = spaced(points, px, 46);
    return (
        <Box component="figure" sx={{ m: 0 }}>
            <Typography variant="body2" component="figcaption" sx={{ fontWeight: 650 }}>
                {slice.title}
            </Typography>
            <Box
                component="svg"
                ref={(element: Element | null) => {
                    svg.current = element;
                    frame(element);
                }}
                viewBox={`0 0 ${width} ${height}`}
                role="img"
                aria-label={`${slice.title}: ${points.map((p, i) => `${formatNumber(p, 0)} gives ${formatNumber(values[i] ?? 0, decimals)} ${unit}`).join(', ')}`}
                sx={{ width: '100%', display: 'block', touchAction: 'none', '& text': { fontFamily: mono, fontSize: CHART_LETTERS_PX, fill: 'var(--mui-palette-text-secondary)' } }}
                onPointerMove={(event) => held && setHeld({ ...held, value: valueAt(event) })}
                onPointerUp={() => {
                    if (held) onMove(held.point, held.value);
                    setHeld(null);
                }}
            >
                {ticks.map((tick) => (
                    <g key={tick}>
                        <line x1={LEFT} x2={width - RIGHT} y1={py(tick)} y2={py(tick)} stroke="var(--mui-palette-divider)" strokeWidth={0.8} />
                        <text x={LEFT - 6} y={py(tick) + 4} textAnchor="end">
                            {formatNumber(tick, decimals)}
                        </text>
                    </g>
                ))}
                {few.map((point) => (
                    <text key={point} x={px(point)} y={height - BOTTOM + 17} textAnchor={px(point) > width - 40 ? 'end' : 'middle'}>
                        {formatNumber(point, 0)}
                    </text>
                ))}
                <text x={(LEFT + width - RIGHT) / 2} y={height - 5} textAnchor="middle">
                    {slice.xLabel}
                </text>
                <path d={path(saved)} fill="none" stroke="var(--mui-palette-ink-faint)" strokeWidth={1.4} strokeDasharray="2 4" />
                <path d={path(values)} fill="none" stroke={ink} strokeWidth={2.2} />
                {slice.cursor !== null && (
                    <line x1={px(slice.cursor)} x2={px(slice.cursor)} y1={TOP} y2={height - BOTTOM} stroke="var(--mui-palette-warning-main)" strokeWidth={2} />
                )}
                {values.map((value, i) => (
                    <circle
                        key={i}
                        data-point={i}
                        cx={px(points[i] ?? 0)}
                        cy={py(value)}
                        r={i === slice.at ? 7 : 5.2}
                        fill={i === slice.at ? 'var(--mui-palette-primary-main)' : 'var(--mui-palette-background-paper)'}
                        stroke={i === slice.at ? 'var(--mui-palette-primary-main)' : ink}
                        strokeWidth={2}
                        style={{ cursor: 'ns-resize' }}
                        onPointerDown={(event) => {
                            event.currentTarget.setPointerCapture(event.pointerId);
                            onSelect(i);
                            setHeld({ point: i, value });
                        }}
                    />
                ))}
                {held && (
                    <text x={px(points[held.point] ?? 0)} y={Math.max(TOP + 10, py(held.value) - 12)} textAnchor="middle" style={{ fill: 'var(--mui-palette-primary-main)', fontWeight: 700 }}>
                        {formatNumber(held.value, decimals)} {unit}
                    </text>
                )}
            </Box>
        </Box>
    );
}
