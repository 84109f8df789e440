import Box from '@mui/material/Box';
import { useColorScheme } from '@mui/material/styles';
import Typography from '@mui/material/Typography';
import { useEffect, useRef, useState } from 'react';
import uPlot from 'uplot';

import type { Schemas } from '../api/client';
import { plainNumber } from '../units/units';
import { mono } from './theme';
import { CHART_LETTERS_PX } from './useWidth';

export interface Line {
    channel: string;
    label: string;
    unit: string;
    values: (number | null)[];
    decimals: number;
    dashed?: boolean;
}

export interface Strip {
    lines: Line[];
    height: number;
}

interface Props {
    time: number[];
    strips: Strip[];
    phases: Schemas['Phase'][];
    /** Spoken description of the whole picture. */
    label: string;
}

const BANDS = ['key-on', 'cranking', 'run-up', 'after-start', 'warm-up', 'idle'];

/** Strips of a recording on one time axis, with phase bands and one cursor through all of them. */
export function Trace({ time, strips, phases, label }: Props) {
    const box = useRef<HTMLDivElement>(null);
    const { mode, systemMode } = useColorScheme();
    const [cursor, setCursor] = useState<number | null>(null);
    const scheme = mode === 'system' ? systemMode : mode;
    useEffect(() => {
        const parent = box.current;
        if (!parent) return;
        const style = getComputedStyle(parent);
        const colour = (name: string) => style.getPropertyValue(`--mui-palette-${name}`).trim();
        const look: Look = {
            ink: colour('ink-main'),
            faint: colour('text-secondary'),
            rule: colour('divider'),
            accent: colour('primary-main'),
            attention: colour('warning-main'),
            paper: colour('background-paper'),
            font: `${CHART_LETTERS_PX}px ${style.fontFamily}`,
        };
        const sync = uPlot.sync(`trace-${Math.round(performance.now())}`);
        const plots = strips.map((strip, position) => {
            const last = position === strips.length - 1;
            return new uPlot(
                stripOptions(strip, phases, look, sync.key, parent.clientWidth, last, position === 0, setCursor),
                [time, ...strip.lines.map((line) => line.values)],
                parent,
            );
        });
        const resize = new ResizeObserver(() => {
            plots.forEach((plot) => plot.setSize({ width: parent.clientWidth, height: plot.height }));
        });
        resize.observe(parent);
        return () => {
            resize.disconnect();
            plots.forEach((plot) => plot.destroy());
        };
    }, [time, strips, phases, scheme]);
    return (
        <Box>
            <Box
                sx={{ display: 'flex', flexWrap: 'wrap', columnGap: 2, minHeight: 24, alignItems: 'baseline' }}
                aria-hidden
            >
                <Typography variant="body2" sx={{ fontFamily: mono, minWidth: 78 }}>
                    {cursor === null ? 'time' : `${(time[cursor] ?? 0).toFixed(2)} s`}
                </Typography>
                {strips.flatMap((strip) =>
                    strip.lines.map((line) => {
                        const value = cursor === null ? null : line.values[cursor];
                        return (
                            <Typography key={line.channel} variant="body2">
                                {line.dashed ? '┄ ' : '─ '}
                                {line.label}{' '}
                                <Box component="span" sx={{ fontFamily: mono, fontWeight: 600 }}>
                                    {value === null || value === undefined ? '' : value.toFixed(line.decimals)}
                                </Box>{' '}
                                {line.unit}
                            </Typography>
                        );
                    }),
                )}
            </Box>
            <Box ref={box} role="img" aria-label={label} sx={{ width: '100%', overflow: 'hidden' }} />
        </Box>
    );
}

interface Look {
    ink: string;
    faint: string;
    rule: string;
    accent: string;
    attention: string;
    paper: string;
    font: string;
}

function stripOptions(
    strip: Strip,
    phases: Schemas['Phase'][],
    look: Look,
    syncKey: string,
    width: number,
    last: boolean,
    first: boolean,
    onCursor: (index: number | null) => void,
): uPlot.Options {
    const title = strip.lines[0];
    return {
        width,
        height: strip.height + (last ? 22 : 0),
        legend: { show: false },
        cursor: { sync: { key: syncKey }, y: false, points: { size: 6 } },
        padding: [first ? 16 : 6, 8, 0, 0],
        scales: { x: { time: false }, y: { range: (_, low, high) => roomAround(low, high) } },
        axes: [
            {
                show: last,
                stroke: look.faint,
                font: look.font,
                size: 24,
                grid: { stroke: look.rule, width: 0.6 },
                ticks: { stroke: look.rule, width: 0.6 },
                values: (_, ticks) => ticks.map((tick) => `${plainNumber(tick, 3)} s`),
            },
            {
                stroke: look.faint,
                font: look.font,
                size: 48,
                space: 18,
                grid: { stroke: look.rule, width: 0.6 },
                ticks: { show: false },
                // The library would part thousands with commas, which read as decimals.
                values: (_, ticks) => ticks.map((tick) => plainNumber(tick, 3)),
            },
        ],
        series: [
            {},
            ...strip.lines.map((line, number) => ({
                label: line.label,
                stroke: number === 0 ? look.ink : line.dashed ? look.faint : look.accent,
                width: number === 0 ? 1.8 : 1.4,
                points: { show: false },
                ...(line.dashed ? { dash: [5, 4] } : {}),
            })),
        ],
        hooks: {
            drawClear: [(plot) => drawBands(plot, phases, look, first)],
            draw: [(plot) => drawTitle(plot, title ? `${title.label} ${title.unit}` : '', look)],
            setCursor: [(plot) => onCursor(plot.cursor.idx ?? null)],
        },
    };
}

/** The name of a strip stands inside it, at the right, where traces are calm. */
function drawTitle(plot: uPlot, title: string, look: Look): void {
    const { ctx, bbox } = plot;
    ctx.save();
    ctx.font = look.font.replace(/[\d.]+px/, `${13 * devicePixelRatio}px`);
    ctx.textAlign = 'right';
    ctx.textBaseline = 'top';
    const width = ctx.measureText(title.trim()).width + 8 * devicePixelRatio;
    ctx.globalAlpha = 0.85;
    ctx.fillStyle = look.paper;
    ctx.fillRect(bbox.left + bbox.width - width - 2 * devicePixelRatio, bbox.top, width, 18 * devicePixelRatio);
    ctx.globalAlpha = 1;
    ctx.fillStyle = look.ink;
    ctx.fillText(title.trim(), bbox.left + bbox.width - 6 * devicePixelRatio, bbox.top + 3 * devicePixelRatio);
    ctx.restore();
}

function roomAround(low: number | null, high: number | null): [number, number] {
    if (low === null || high === null) return [0, 1];
    const room = Math.max((high - low) * 0.08, Math.abs(high) * 0.01, 0.01);
    return [low - room, high + room];
}

/** Every second phase is tinted; names stand above the first strip, moments are thin lines. */
function drawBands(plot: uPlot, phases: Schemas['Phase'][], look: Look, named: boolean): void {
    const { ctx, bbox } = plot;
    const ratio = devicePixelRatio;
    ctx.save();
    ctx.beginPath();
    ctx.rect(bbox.left, 0, bbox.width, bbox.top + bbox.height);
    ctx.clip();
    const bands = phases.filter((phase) => BANDS.includes(phase.name) && phase.end_s > phase.start_s);
    let free = -Infinity;
    bands.forEach((phase, number) => {
        const left = plot.valToPos(phase.start_s, 'x', true);
        const right = plot.valToPos(phase.end_s, 'x', true);
        ctx.globalAlpha = number % 2 === 0 ? 0.05 : 0.12;
        ctx.fillStyle = look.accent;
        ctx.fillRect(left, bbox.top, right - left, bbox.height);
        ctx.globalAlpha = 1;
        if (!named) return;
        ctx.font = look.font.replace(/[\d.]+px/, `${12 * ratio}px`);
        ctx.fillStyle = look.faint;
        ctx.textBaseline = 'bottom';
        const at = Math.max(left + 2 * ratio, free);
        const width = ctx.measureText(phase.name).width;
        if (at + width > Math.max(right, left + width + 3 * ratio) + 60 * ratio) return;
        ctx.fillText(phase.name, at, bbox.top - 2 * ratio);
        free = at + width + 6 * ratio;
    });
    for (const phase of phases) {
        if (!['first fire', 'flare', 'stall'].includes(phase.name)) continue;
        const x = plot.valToPos(phase.start_s, 'x', true);
        ctx.strokeStyle = phase.name === 'stall' ? look.attention : look.accent;
        ctx.lineWidth = ratio;
        ctx.setLineDash([3 * ratio, 3 * ratio]);
        ctx.beginPath();
        ctx.moveTo(x, bbox.top);
        ctx.lineTo(x, bbox.top + bbox.height);
        ctx.stroke();
    }
    ctx.restore();
}
