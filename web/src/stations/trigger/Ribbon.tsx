import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import type { Capture, Schemas } from '../../api/client';
import { ribbonQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { CHART_LETTERS_PX, useWidth } from '../../parts/useWidth';

/** Before it is measured, and the least that the marks of a stretch need. */
const WIDTH = 940;
const LEAST_WIDTH = 620;
const LEFT = 64;
const CRANK = 46;
const CAM = 92;
const SPEED_TOP = 118;
const SPEED_BOTTOM = 186;
const HEIGHT = 214;

/** A stretch of a capture: every edge with what it was taken for, and the speed from tooth to tooth. */
export function Ribbon({ capture }: { capture: Capture }) {
    const { job } = useJob();
    const [start, setStart] = useState(0);
    const [span, setSpan] = useState(0.6);
    const [frame, width] = useWidth(WIDTH);
    const query = useQuery(ribbonQuery(job.id, capture.number, start, span));
    const ribbon = query.data;
    if (!ribbon) return null;
    const end = Math.max(ribbon.end_s, ribbon.start_s + 1e-4);
    const x = (time: number) => LEFT + ((time - ribbon.start_s) / (end - ribbon.start_s)) * (width - LEFT - 12);
    const go = (to: number) => setStart(Math.max(0, Math.min(to, ribbon.length_s - span / 2)));
    const next = ribbon.faults_at_s.find((time) => time > ribbon.end_s) ?? ribbon.faults_at_s[0];
    const keys: Record<string, () => void> = {
        ArrowLeft: () => go(start - span / 2),
        ArrowRight: () => go(start + span / 2),
        '+': () => setSpan(Math.max(0.02, span / 2)),
        '-': () => setSpan(Math.min(20, span * 2)),
    };
    return (
        <Box
            component="section"
            aria-label="Ribbon of the edges"
            tabIndex={0}
            onKeyDown={(event) => {
                const act = keys[event.key];
                if (!act) return;
                event.preventDefault();
                act();
            }}
            sx={{ mb: 2 }}
        >
            <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap', alignItems: 'center', mb: 0.5 }}>
                <Typography variant="h3" component="h2" sx={{ flex: 1 }}>
                    Edges from {ribbon.start_s.toFixed(2)} to {ribbon.end_s.toFixed(2)} s of {ribbon.length_s.toFixed(1)} s
                </Typography>
                <Button size="small" onClick={() => go(start - span / 2)} disabled={start <= 0}>
                    Earlier
                </Button>
                <Button size="small" onClick={() => go(start + span / 2)}>
                    Later
                </Button>
                <Button size="small" onClick={() => setSpan(Math.max(0.02, span / 2))}>
                    Closer
                </Button>
                <Button size="small" onClick={() => setSpan(Math.min(20, span * 2))}>
                    Wider
                </Button>
                {next !== undefined && (
                    <Button size="small" variant="outlined" onClick={() => go(next - span / 2)}>
                        Next lost or extra edge
                    </Button>
                )}
            </Stack>
            <Box sx={{ overflowX: 'auto', border: 1, borderColor: 'divider', bgcolor: 'background.paper' }}>
                <svg ref={frame} viewBox={`0 0 ${width} ${HEIGHT}`} width="100%" style={{ minWidth: LEAST_WIDTH, display: 'block', fontSize: CHART_LETTERS_PX }} role="img" aria-label={`Ribbon: ${describe(ribbon)}`}>
                    <Labels width={width} />
                    {ribbon.marks.map((mark, i) => (
                        <EdgeMark key={i} kind={mark.kind} x={x(mark.at_s)} />
                    ))}
                    <Speed ribbon={ribbon} x={x} />
                    {[0, 0.25, 0.5, 0.75, 1].map((part) => {
                        const time = ribbon.start_s + part * (end - ribbon.start_s);
                        return (
                            <text key={part} x={x(time)} y={HEIGHT - 8} textAnchor={part === 1 ? 'end' : part === 0 ? 'start' : 'middle'} fill="currentColor" style={{ fontFamily: mono }}>
                                {time.toFixed(span < 0.3 ? 3 : 2)} s
                            </text>
                        );
                    })}
                </svg>
            </Box>
            <Typography variant="caption">
                Tall mark: first edge behind the gap. Ring: a tooth that was missed. Cross: an edge that is none. Lower row: cam. Below: speed from tooth to tooth.
            </Typography>
        </Box>
    );
}

function describe(ribbon: Schemas['Ribbon']): string {
    const count = (kind: string) => ribbon.marks.filter((mark) => mark.kind === kind).length;
    return `${count('tooth') + count('first')} teeth, ${count('lost')} lost, ${count('extra')} extra, ${count('cam')} cam edges`;
}

function Labels({ width }: { width: number }) {
    return (
        <g fill="currentColor">
            <text x="6" y={CRANK - 6}>crank</text>
            <text x="6" y={CAM + 4}>cam</text>
            <text x="6" y={SPEED_TOP + 14}>rpm</text>
            <line x1={LEFT} x2={width - 12} y1={CRANK} y2={CRANK} stroke="var(--mui-palette-ink-rule)" />
            <line x1={LEFT} x2={width - 12} y1={CAM + 8} y2={CAM + 8} stroke="var(--mui-palette-ink-rule)" />
        </g>
    );
}

function EdgeMark({ kind, x }: { kind: string; x: number }) {
    const ink = 'var(--mui-palette-ink-main)';
    if (kind === 'cam') return <rect x={x - 3} y={CAM - 12} width="6" height="20" fill={ink} />;
    if (kind === 'lost') return <circle cx={x} cy={CRANK + 10} r="5" fill="none" stroke="var(--mui-palette-error-main)" strokeWidth="2" />;
    if (kind === 'extra') {
        return <path d={`M ${x - 5} ${CRANK + 5} l 10 10 m 0 -10 l -10 10`} stroke="var(--mui-palette-error-main)" strokeWidth="2" />;
    }
    const isFirst = kind === 'first';
    return <line x1={x} x2={x} y1={CRANK} y2={CRANK - (isFirst ? 36 : 20)} stroke={isFirst ? 'var(--mui-palette-primary-main)' : ink} strokeWidth={isFirst ? 3 : 1.6} />;
}

function Speed({ ribbon, x }: { ribbon: Schemas['Ribbon']; x: (time: number) => number }) {
    const values = ribbon.speed.map((point) => point[1] ?? 0);
    if (values.length < 2) return null;
    const low = Math.min(...values);
    const high = Math.max(...values, low + 1);
    const y = (value: number) => SPEED_BOTTOM - ((value - low) / (high - low)) * (SPEED_BOTTOM - SPEED_TOP);
    return (
        <g>
            <polyline points={ribbon.speed.map(([time = 0, value = 0]) => `${x(time)},${y(value)}`).join(' ')} fill="none" stroke="var(--mui-palette-ink-main)" strokeWidth="1.8" />
            <text x={LEFT - 6} y={SPEED_BOTTOM} textAnchor="end" fill="currentColor" style={{ fontFamily: mono }}>
                {low.toFixed(0)}
            </text>
            <text x={LEFT - 6} y={SPEED_TOP + 30} textAnchor="end" fill="currentColor" style={{ fontFamily: mono }}>
                {high.toFixed(0)}
            </text>
        </g>
    );
}
