import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Slider from '@mui/material/Slider';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { memo, useEffect, useMemo, useRef, useState } from 'react';

import { client, unwrap } from '../../api/client';
import { logsQuery, samplesQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { useJob } from '../jobContext';
import { formatNumber } from '../../units/units';
import { ProblemNote } from '../ProblemNote';
import { placeOn } from '../draft/grid';

export interface Place {
    row: number;
    column: number;
}

interface Props {
    /** Names and breakpoints of the table's axes. */
    axes: readonly { name: string; points: readonly number[] }[];
    onPlace: (place: Place | null) => void;
}

const SPEEDS = [1, 4, 16] as const;

/** A log of the job, or of the bench engine, runs over the table. */
export const LogCursor = memo(function LogCursor({ axes, onPlace }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const logs = useQuery(logsQuery(job.id));
    const [logId, setLogId] = useState<number | null>(null);
    const [time, setTime] = useState(0);
    const [speed, setSpeed] = useState<number>(0);
    const samples = useQuery({ ...samplesQuery(job.id, logId ?? 0), enabled: logId !== null });
    const crank = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST('/api/jobs/{job_id}/bench/starts', {
                    params: { path: { job_id: job.id } },
                    body: { coolant_c: 20, engine: 'stand_in', faults: [], rate_hz: 25, crank_limit_s: 8, run_s: 28, pedal_pct: 0 },
                }),
            ),
        onSuccess: async (log) => {
            await refresh(queryClient, job.id, 'logs');
            setLogId(log.id);
            setTime(0);
            setSpeed(4);
        },
    });
    const names = axes.map(({ name }) => name);
    const fitting = (logs.data ?? []).filter((log) => names.every((name) => log.channels.some((channel) => channel.name === name)));
    const end = samples.data?.time_s.at(-1) ?? 0;
    const place = useMemo(() => {
        const data = samples.data;
        if (!data || logId === null) return null;
        let at = data.time_s.findIndex((t) => t >= time);
        if (at < 0) at = data.time_s.length - 1;
        const spots = axes.map(({ name, points }) => {
            const value = data.channels[name]?.[at];
            return value === null || value === undefined ? null : placeOn(points, value);
        });
        if (spots.some((spot) => spot === null)) return null;
        return { row: spots[0] ?? 0, column: spots[1] ?? 0 };
    }, [samples.data, logId, time, axes]);
    const tell = useRef(onPlace);
    useEffect(() => {
        tell.current = onPlace;
    });
    useEffect(() => {
        tell.current(place);
    }, [place]);
    useEffect(() => () => tell.current(null), []);
    useEffect(() => {
        if (!speed) return;
        let last = performance.now();
        let frame = requestAnimationFrame(function step(now) {
            const by = ((now - last) / 1000) * speed;
            last = now;
            setTime((old) => Math.min(end, old + by));
            frame = requestAnimationFrame(step);
        });
        return () => cancelAnimationFrame(frame);
    }, [speed, end]);
    return (
        <Box sx={{ flex: '1 1 auto' }}>
            <Stack direction="row" sx={{ gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
                <TextField
                    select
                    label="Log over the table"
                    value={logId === null ? '' : String(logId)}
                    onChange={(event) => {
                        setLogId(event.target.value === '' ? null : Number(event.target.value));
                        setTime(0);
                        setSpeed(0);
                    }}
                    sx={{ width: 260 }}
                >
                    <MenuItem value="">none</MenuItem>
                    {fitting.map((log) => (
                        <MenuItem key={log.id} value={String(log.id)}>
                            {log.name}
                        </MenuItem>
                    ))}
                </TextField>
                {logId === null ? (
                    <Button size="small" onClick={() => crank.mutate()} disabled={crank.isPending}>
                        {crank.isPending ? 'Cranking …' : 'Crank the bench engine at 20 °C'}
                    </Button>
                ) : <PlayControls speed={speed} time={time} end={end} onSpeed={setSpeed} onTime={setTime} />}
            </Stack>
            {crank.error && <ProblemNote error={crank.error} />}
        </Box>
    );
});

interface PlayControlsProps {
    speed: number;
    time: number;
    end: number;
    onSpeed: (speed: number) => void;
    onTime: (time: number) => void;
}

/** Run, hold, pace and place in time. */
function PlayControls({ speed, time, end, onSpeed, onTime }: PlayControlsProps) {
    return (
        <>
            <Button size="small" variant="outlined" onClick={() => onSpeed(speed ? 0 : 4)}>
                {speed ? 'Hold' : 'Run'}
            </Button>
            <TextField select label="Pace" value={speed || 4} onChange={(event) => onSpeed(Number(event.target.value))} sx={{ width: 84 }}>
                {SPEEDS.map((pace) => (
                    <MenuItem key={pace} value={pace}>
                        × {pace}
                    </MenuItem>
                ))}
            </TextField>
            <Slider
                aria-label="Time in the log"
                size="small"
                value={Math.min(time, end)}
                min={0}
                max={end || 1}
                step={0.05}
                onChange={(_, value) => onTime(value)}
                sx={{ flex: '1 1 160px', maxWidth: 360 }}
            />
            <Typography variant="body2" sx={{ width: 60 }}>
                {formatNumber(time, 1)} s
            </Typography>
        </>
    );
}
