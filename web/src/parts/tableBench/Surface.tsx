import Box from '@mui/material/Box';
import { useColorScheme } from '@mui/material/styles';
import Typography from '@mui/material/Typography';
import { useEffect, useRef, useState, type PointerEvent } from 'react';

import { formatNumber } from '../../units/units';
import { spanOf, type Cell, type Grid } from '../draft/grid';
import { project, quads, type View } from './project';
import { CHART_LETTERS_PX } from '../useWidth';
import type { Head } from './SheetGrid';

interface Props {
    label: string;
    down: Head;
    across: Head;
    grid: Grid;
    /** A second surface, drawn as bare lines. */
    other?: Grid | undefined;
    show: (value: number) => number;
    unit: string;
    decimals: number;
    selected: Cell;
    cursor: { row: number; column: number } | null;
    height?: number;
}

const START: View = { turn: -0.7, tilt: 0.55 };

/** The table as a surface in the same ink; turned by pointer or arrow keys. */
export function Surface(props: Props) {
    const { label, down, across, grid, other, show, unit, decimals, selected, cursor, height = 430 } = props;
    const canvas = useRef<HTMLCanvasElement>(null);
    const [view, setView] = useState(START);
    const [width, setWidth] = useState(0);
    const held = useRef<{ x: number; y: number; view: View } | null>(null);
    const { mode, systemMode } = useColorScheme();
    useEffect(() => {
        const parent = canvas.current?.parentElement;
        if (!parent) return;
        const observer = new ResizeObserver(() => setWidth(parent.clientWidth));
        observer.observe(parent);
        return () => observer.disconnect();
    }, []);
    useEffect(() => {
        const target = canvas.current;
        const context = target?.getContext('2d');
        if (!target || !context || !width) return;
        const ratio = window.devicePixelRatio || 1;
        target.width = width * ratio;
        target.height = height * ratio;
        context.setTransform(ratio, 0, 0, ratio, 0, 0);
        draw(context, { width, height, down, across, grid, other, show, unit, decimals, selected, cursor, view }, target);
    }, [width, height, down, across, grid, other, show, unit, decimals, selected, cursor, view, mode, systemMode]);
    const turn = (by: Partial<View>) =>
        setView((old) => ({ turn: old.turn + (by.turn ?? 0), tilt: Math.min(1.45, Math.max(0.1, old.tilt + (by.tilt ?? 0))) }));
    const onPointerMove = (event: PointerEvent) => {
        const from = held.current;
        if (!from) return;
        setView({
            turn: from.view.turn + (event.clientX - from.x) * 0.008,
            tilt: Math.min(1.45, Math.max(0.1, from.view.tilt + (event.clientY - from.y) * 0.006)),
        });
    };
    return (
        <Box>
            <Box sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.paper', minWidth: 0 }}>
                <canvas
                    ref={canvas}
                    role="img"
                    aria-label={label}
                    tabIndex={0}
                    style={{ width: '100%', height, display: 'block', cursor: 'grab', touchAction: 'none' }}
                    onPointerDown={(event) => {
                        event.currentTarget.setPointerCapture(event.pointerId);
                        held.current = { x: event.clientX, y: event.clientY, view };
                    }}
                    onPointerMove={onPointerMove}
                    onPointerUp={() => {
                        held.current = null;
                    }}
                    onKeyDown={(event) => {
                        const by = { ArrowLeft: { turn: -0.12 }, ArrowRight: { turn: 0.12 }, ArrowUp: { tilt: -0.08 }, ArrowDown: { tilt: 0.08 } }[event.key];
                        if (!by) return;
                        event.preventDefault();
                        turn(by);
                    }}
                />
            </Box>
            <Typography variant="caption" color="text.secondary">
                Drag to turn it, or use the arrow keys. The filled mark is the selected cell.
            </Typography>
        </Box>
    );
}

interface Picture extends Omit<Props, 'label'> {
    width: number;
    height: number;
    view: View;
}

function draw(context: CanvasRenderingContext2D, picture: Picture, element: Element) {
    const { width, height, down, across, grid, other, show, unit, decimals, selected, cursor, view } = picture;
    const style = getComputedStyle(element);
    const colour = (name: string) => style.getPropertyValue(`--mui-palette-${name}`).trim();
    const scale = Math.min(width * 0.56, height * 0.72);
    const place = (u: number, v: number, h: number) => {
        const point = project(u, v, h, view);
        return { x: width / 2 + point.x * scale, y: height / 2 + 6 + point.y * scale };
    };
    const share = (points: readonly number[]) => {
        const first = points[0] ?? 0;
        const span = (points.at(-1) ?? 1) - first || 1;
        return points.map((point) => (point - first) / span);
    };
    const rows = share(down.points);
    const columns = share(across.points);
    const spans = [spanOf(grid), ...(other ? [spanOf(other)] : [])];
    const low = Math.min(...spans.map(([l]) => l));
    const high = Math.max(...spans.map(([, h]) => h));
    const level = (value: number) => (value - low) / (high - low || 1);
    context.clearRect(0, 0, width, height);
    context.lineJoin = 'round';
    drawFloor(context, place, colour('divider'));
    for (const quad of quads(rows, columns, grid.map((line) => line.map(level)), view)) {
        context.beginPath();
        quad.corners.forEach((corner, i) => {
            const x = width / 2 + corner.x * scale;
            const y = height / 2 + 6 + corner.y * scale;
            if (i) context.lineTo(x, y);
            else context.moveTo(x, y);
        });
        context.closePath();
        context.globalAlpha = 1;
        context.fillStyle = colour('background-paper');
        context.fill();
        context.globalAlpha = 0.1 + 0.62 * quad.height;
        context.fillStyle = colour('ink-main');
        context.fill();
        context.globalAlpha = 0.85;
        context.strokeStyle = colour('ink-main');
        context.lineWidth = 0.7;
        context.stroke();
    }
    context.globalAlpha = 1;
    if (other) drawLines(context, place, rows, columns, other, level, colour('warning-main'));
    const at = place(columns[selected.column] ?? 0, rows[selected.row] ?? 0, level(grid[selected.row]?.[selected.column] ?? low));
    context.fillStyle = colour('primary-main');
    context.beginPath();
    context.arc(at.x, at.y, 6, 0, 2 * Math.PI);
    context.fill();
    if (cursor) {
        const point = place(between(columns, cursor.column), between(rows, cursor.row), level(bilinear(grid, cursor)));
        context.strokeStyle = colour('warning-main');
        context.lineWidth = 3;
        context.beginPath();
        context.arc(point.x, point.y, 10, 0, 2 * Math.PI);
        context.stroke();
    }
    context.fillStyle = colour('text-secondary');
    context.font = `${CHART_LETTERS_PX}px ${style.fontFamily}`;
    context.textAlign = 'center';
    const word = (text: string, u: number, v: number, h = 0) => {
        const point = place(u, v, h);
        const x = Math.min(width - context.measureText(text).width / 2 - 4, Math.max(context.measureText(text).width / 2 + 4, point.x));
        context.fillText(text, x, Math.min(height - 6, Math.max(14, point.y)));
    };
    const ends = (head: Head) => [formatNumber(head.points[0] ?? 0, head.decimals), formatNumber(head.points.at(-1) ?? 0, head.decimals)];
    const [firstAcross, lastAcross] = ends(across);
    const [firstDown, lastDown] = ends(down);
    word(firstAcross ?? '', 0.04, -0.09);
    word(`${across.title.split(',')[0]}, ${across.unit}`, 0.5, -0.16);
    word(lastAcross ?? '', 0.98, -0.09);
    word(firstDown ?? '', 1.1, 0.04);
    word(`${down.title}, ${down.unit}`, 1.2, 0.5);
    word(lastDown ?? '', 1.1, 0.98);
    context.textAlign = 'left';
    context.fillText(`${formatNumber(show(low), decimals)} to ${formatNumber(show(high), decimals)} ${unit}`, 12, 22);
}

type Place = (u: number, v: number, h: number) => { x: number; y: number };

function drawFloor(context: CanvasRenderingContext2D, place: Place, colour: string) {
    context.strokeStyle = colour;
    context.lineWidth = 1;
    const line = (...points: [number, number, number][]) => {
        context.beginPath();
        points.forEach((point, i) => {
            const { x, y } = place(...point);
            if (i) context.lineTo(x, y);
            else context.moveTo(x, y);
        });
        context.stroke();
    };
    line([0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 0]);
    line([0, 1, 0], [0, 1, 1]);
}

function drawLines(context: CanvasRenderingContext2D, place: Place, rows: number[], columns: number[], grid: Grid, level: (value: number) => number, colour: string) {
    context.strokeStyle = colour;
    context.lineWidth = 1.2;
    grid.forEach((line, i) => {
        context.beginPath();
        line.forEach((value, j) => {
            const { x, y } = place(columns[j] ?? 0, rows[i] ?? 0, level(value));
            if (j) context.lineTo(x, y);
            else context.moveTo(x, y);
        });
        context.stroke();
    });
}

function between(points: readonly number[], at: number): number {
    const low = Math.floor(at);
    const high = Math.min(points.length - 1, low + 1);
    return (points[low] ?? 0) + ((points[high] ?? 0) - (points[low] ?? 0)) * (at - low);
}

function bilinear(grid: Grid, at: { row: number; column: number }): number {
    const line = (row: number) => between(grid[Math.min(grid.length - 1, row)] ?? [], at.column);
    const low = Math.floor(at.row);
    return line(low) + (line(low + 1) - line(low)) * (at.row - low);
}
