import Box from '@mui/material/Box';

import { mono } from './theme';
import { formatNumber } from '../units/units';
import { CHART_LETTERS_PX, useWidth } from './useWidth';

export interface Series {
    name: string;
    points: readonly (readonly [number, number | null])[];
    /** Thin and broken for what is only extrapolated or compared with. */
    look?: 'line' | 'broken' | 'faint';
}

export interface Limit {
    at: number;
    label: string;
}

interface Props {
    title: string;
    xLabel: string;
    yLabel: string;
    series: readonly Series[];
    dots?: readonly (readonly [number, number])[];
    /** Upright lines, and level ones. */
    xLimits?: readonly Limit[];
    yLimits?: readonly Limit[];
    height?: number;
    /** Ends that must be inside, whatever the data. */
    yEnds?: readonly number[];
}

/** Width that a height is meant for; wider and narrower ones keep the shape within bounds. */
const WIDTH = 560;
const LEAST_SHAPE = 0.62;
const MOST_SHAPE = 1.2;
const TICKS_ACROSS = { least: 3, most: 6, apart: 90 };
const LEFT = 58;
const RIGHT = 22;
const TOP = 28;
const BOTTOM = 44;

function niceStep(span: number, wanted: number): number {
    const raw = span / Math.max(1, wanted);
    const power = 10 ** Math.floor(Math.log10(raw));
    const step = [1, 2, 2.5, 5, 10].find((factor) => factor * power >= raw) ?? 10;
    return step * power;
}

function ticksOf(low: number, high: number, wanted: number): number[] {
    const step = niceStep(high - low, wanted);
    const ticks: number[] = [];
    for (let value = Math.ceil(low / step) * step; value <= high + step * 1e-6; value += step) ticks.push(value);
    return ticks;
}

function decimalsFor(ticks: number[]): number {
    const step = Math.abs((ticks[1] ?? 1) - (ticks[0] ?? 0));
    return step >= 1 ? (Number.isInteger(step) ? 0 : 1) : Math.min(3, Math.ceil(-Math.log10(step) + 0.3));
}

/** Broken where a value is missing: several pieces of one line. */
function pieces(points: Series['points']): [number, number][][] {
    const result: [number, number][][] = [[]];
    for (const [x, y] of points) {
        if (y === null) result.push([]);
        else result.at(-1)?.push([x, y]);
    }
    return result.filter((piece) => piece.length > 1);
}

/** A curve or a few on two plain axes, in ink. */
export function CurvePlot({ title, xLabel, yLabel, series, dots = [], xLimits = [], yLimits = [], height: wanted = 300, yEnds = [] }: Props) {
    const [frame, width] = useWidth(WIDTH);
    const height = Math.round(wanted * Math.min(MOST_SHAPE, Math.max(LEAST_SHAPE, width / WIDTH)));
    const all = series.flatMap(({ points }) => points.filter((p): p is [number, number] => p[1] !== null));
    const xs = [...all.map(([x]) => x), ...dots.map(([x]) => x), ...xLimits.map(({ at }) => at)];
    const ys = [...all.map(([, y]) => y), ...dots.map(([, y]) => y), ...yLimits.map(({ at }) => at), ...yEnds];
    if (xs.length < 2 || !ys.length) return null;
    const x0 = Math.min(...xs);
    const x1 = Math.max(...xs, x0 + 1e-9);
    const low = Math.min(...ys);
    const high = Math.max(...ys);
    const pad = (high - low || 1) * 0.05;
    const y0 = low === 0 ? 0 : low - pad;
    const y1 = high + pad;
    const px = (x: number) => LEFT + ((x - x0) / (x1 - x0)) * (width - LEFT - RIGHT);
    const py = (y: number) => height - BOTTOM - ((y - y0) / (y1 - y0)) * (height - TOP - BOTTOM);
    const xTicks = ticksOf(x0, x1, Math.max(TICKS_ACROSS.least, Math.min(TICKS_ACROSS.most, Math.round(width / TICKS_ACROSS.apart))));
    const yTicks = ticksOf(y0, y1, Math.max(3, Math.round(height / 55)));
    const path = (piece: [number, number][]) =>
        piece.map(([x, y], i) => `${i ? 'L' : 'M'}${px(x).toFixed(1)} ${py(y).toFixed(1)}`).join('');
    const ink = 'var(--mui-palette-ink-main)';
    const faint = 'var(--mui-palette-ink-faint)';
    const rule = 'var(--mui-palette-divider)';
    const stop = 'var(--mui-palette-warning-main)';
    /** Whether the curve runs through the lower half beside an upright line: its label then stands above. */
    const isLow = (x: number) => {
        const nearest = all.reduce<[number, number] | null>(
            (best, point) => (best === null || Math.abs(point[0] - x) < Math.abs(best[0] - x) ? point : best),
            null,
        );
        return nearest !== null && py(nearest[1]) > height / 2;
    };
    const named = series.filter(({ name }) => name !== '');
    return (
        <Box component="figure" sx={{ m: 0, minWidth: 0 }}>
            <Box
                component="svg"
                ref={frame}
                viewBox={`0 0 ${width} ${height}`}
                role="img"
                aria-label={title}
                sx={{ width: '100%', display: 'block', '& text': { fontFamily: mono, fontSize: CHART_LETTERS_PX, fill: 'var(--mui-palette-text-secondary)' } }}
            >
                {xTicks.map((tick) => (
                    <g key={`x${tick}`}>
                        <line x1={px(tick)} x2={px(tick)} y1={TOP} y2={height - BOTTOM} stroke={rule} strokeWidth={0.8} />
                        <text x={px(tick)} y={height - BOTTOM + 17} textAnchor="middle">
                            {formatNumber(tick, decimalsFor(xTicks))}
                        </text>
                    </g>
                ))}
                {yTicks.map((tick) => (
                    <g key={`y${tick}`}>
                        <line x1={LEFT} x2={width - RIGHT} y1={py(tick)} y2={py(tick)} stroke={rule} strokeWidth={0.8} />
                        <text x={LEFT - 6} y={py(tick) + 4} textAnchor="end">
                            {formatNumber(tick, decimalsFor(yTicks))}
                        </text>
                    </g>
                ))}
                <text x={(LEFT + width - RIGHT) / 2} y={height - 6} textAnchor="middle">
                    {xLabel}
                </text>
                <text x={LEFT - 40} y={TOP - 12}>
                    {yLabel}
                </text>
                {xLimits.map(({ at, label }) => (
                    <g key={`${label}${at}`}>
                        <line x1={px(at)} x2={px(at)} y1={TOP} y2={height - BOTTOM} stroke={stop} strokeWidth={1.6} strokeDasharray="2 3" />
                        <text
                            x={px(at) + (px(at) > width / 2 ? -5 : 5)}
                            y={isLow(at) ? TOP + 15 : height - BOTTOM - 7}
                            textAnchor={px(at) > width / 2 ? 'end' : 'start'}
                            style={{ fill: stop }}
                        >
                            {label}
                        </text>
                    </g>
                ))}
                {yLimits.map(({ at, label }) => (
                    <g key={`${label}${at}`}>
                        <line x1={LEFT} x2={width - RIGHT} y1={py(at)} y2={py(at)} stroke={stop} strokeWidth={1.6} strokeDasharray="2 3" />
                        <text x={width - RIGHT - 4} y={py(at) - 5} textAnchor="end" style={{ fill: stop }}>
                            {label}
                        </text>
                    </g>
                ))}
                {series.map(({ name, points, look = 'line' }, place) =>
                    pieces(points).map((piece, i) => (
                        <path
                            key={`${name}${place}.${i}`}
                            d={path(piece)}
                            fill="none"
                            stroke={look === 'faint' ? faint : ink}
                            strokeWidth={look === 'line' ? 2.2 : 1.6}
                            strokeDasharray={look === 'broken' ? '6 5' : look === 'faint' ? '1.5 4' : undefined}
                        />
                    )),
                )}
                {dots.map(([x, y]) => (
                    <circle key={`${x},${y}`} cx={px(x)} cy={py(y)} r={4.2} fill="var(--mui-palette-background-paper)" stroke={ink} strokeWidth={2} />
                ))}
            </Box>
            {named.length > 1 && <Legend named={named} faint={faint} ink={ink} />}
        </Box>
    );
}

/** Which line is which. */
function Legend({ named, faint, ink }: { named: readonly Series[]; faint: 'var(--mui-palette-ink-faint)'; ink: 'var(--mui-palette-ink-main)' }) {
    return (
        <Box component="figcaption" sx={{ display: 'flex', flexWrap: 'wrap', columnGap: 2, fontSize: '0.86rem', color: 'text.secondary', pl: 1 }}>
            {named.map(({ name, look = 'line' }) => (
                <Box component="span" key={name} sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.75 }}>
                    <svg width="30" height="10" aria-hidden>
                        <line
                            x1="0"
                            x2="30"
                            y1="5"
                            y2="5"
                            stroke={look === 'faint' ? faint : ink}
                            strokeWidth={look === 'line' ? 2.2 : 1.6}
                            strokeDasharray={look === 'broken' ? '6 5' : look === 'faint' ? '1.5 4' : undefined}
                        />
                    </svg>
                    {name}
                </Box>
            ))}
        </Box>
    );
}
