import Box from '@mui/material/Box';
import Tooltip from '@mui/material/Tooltip';
import { Link } from 'react-router';

import type { TrialRow } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { inUnits } from '../../units/said';

interface Props {
    points: number[];
    trials: TrialRow[];
    rowHeight: number;
}

const TUBE_X = 66;
const FIRST_MARK_X = 84;
const MARK_SIZE = 22;
const MARKS_IN_ROW = 2;

/** The tube beside the rungs, with every trial at its temperature. */
export function Thermometer({ points, trials, rowHeight }: Props) {
    const { job } = useJob();
    const height = points.length * rowHeight;
    const top = points.length - 1;
    /** Height of a temperature: between two rungs in proportion, beyond the ends at the end. */
    const yOf = (coolantC: number): number => {
        const last = points[top] ?? 0;
        const first = points[0] ?? 0;
        if (coolantC >= last) return rowHeight * 0.5;
        if (coolantC <= first) return height - rowHeight * 0.5;
        const right = points.findIndex((point) => point > coolantC);
        const low = points[right - 1] ?? 0;
        const high = points[right] ?? 1;
        const place = right - 1 + (coolantC - low) / (high - low);
        return (top - place + 0.5) * rowHeight;
    };
    const { marks, more } = placeMarks(trials, yOf);
    return (
        <Box sx={{ position: 'absolute', left: 0, top: 0, width: 128, height, pointerEvents: 'none' }}>
            <Box component="svg" width={128} height={height} aria-hidden sx={{ display: 'block' }}>
                <Box
                    component="rect"
                    x={TUBE_X - 4}
                    y={rowHeight * 0.3}
                    width={8}
                    height={height - rowHeight * 0.6}
                    rx={4}
                    sx={{ fill: 'none', stroke: 'var(--mui-palette-ink-rule)', strokeWidth: 1.4 }}
                />
                {trials[0] && (
                    <rect
                        x={TUBE_X - 2}
                        y={yOf(trials[0].coolant_c)}
                        width={4}
                        height={height - rowHeight * 0.36 - yOf(trials[0].coolant_c)}
                        rx={2}
                        fill="var(--mui-palette-primary-main)"
                    />
                )}
                {points.map((point) => (
                    <line
                        key={point}
                        x1={TUBE_X - 9}
                        x2={TUBE_X - 4}
                        y1={yOf(point)}
                        y2={yOf(point)}
                        stroke="var(--mui-palette-ink-rule)"
                        strokeWidth={1.4}
                    />
                ))}
            </Box>
            {more.map(({ y, count }) => (
                <Box
                    key={y}
                    sx={{ position: 'absolute', left: FIRST_MARK_X - 8, top: y + 9, fontSize: '0.76rem', color: 'text.secondary' }}
                >
                    and {count}
                </Box>
            ))}
            {marks.map(({ trial, x, y }) => (
                    <Tooltip key={trial.id} title={`Trial ${trial.number}: ${inUnits(trial.sentence)}`} placement="right">
                        <Box
                            component={Link}
                            to={`/jobs/${job.id}/trials/${trial.id}`}
                            aria-label={`Trial ${trial.number}: ${inUnits(trial.sentence)}`}
                            sx={{
                                position: 'absolute',
                                left: x - 12,
                                top: y - 12,
                                width: 24,
                                height: 24,
                                display: 'grid',
                                placeItems: 'center',
                                pointerEvents: 'auto',
                                color: trial.good ? 'primary.main' : 'warning.main',
                            }}
                        >
                            <TrialMark good={trial.good} open={trial.advised !== null && !trial.decision} />
                        </Box>
                    </Tooltip>
                ))}
        </Box>
    );
}

interface Mark {
    trial: TrialRow;
    x: number;
    y: number;
}

/**
 * Trials at nearly one temperature stand side by side, the newest nearest to the tube; where
 * there is no room for all, the older ones are counted.
 */
function placeMarks(trials: TrialRow[], yOf: (coolantC: number) => number) {
    const marks: Mark[] = [];
    const more: { y: number; count: number }[] = [];
    for (const trial of trials) {
        const y = yOf(trial.coolant_c);
        const beside = marks.filter((mark) => Math.abs(mark.y - y) < MARK_SIZE);
        if (beside.length < MARKS_IN_ROW) {
            marks.push({ trial, y, x: FIRST_MARK_X + beside.length * MARK_SIZE });
            continue;
        }
        const near = more.find((entry) => Math.abs(entry.y - y) < MARK_SIZE);
        if (near) near.count += 1;
        else more.push({ y: beside[0]?.y ?? y, count: 1 });
    }
    return { marks, more };
}

/** A tick for a good start, a cross for one that was not; framed while its advice is open. */
function TrialMark({ good, open }: { good: boolean; open: boolean }) {
    return (
        <svg width="20" height="20" viewBox="0 0 20 20" fill="none" stroke="currentColor" strokeWidth="2.2">
            {good ? <path d="M5 10.5 8.6 14 15 6" /> : <path d="M6 6 14 14M14 6 6 14" />}
            {open && <rect x="1.2" y="1.2" width="17.6" height="17.6" rx="2" strokeWidth="1.5" />}
        </svg>
    );
}
