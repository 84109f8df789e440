import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';

import type { Log } from '../../api/client';
import { samplesQuery } from '../../api/logbook';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { formatNumber, shownUnit, toShown } from '../../units/units';
import { Loading } from '../../parts/Loading';
import { EngineSound } from './engineSound';

interface Props {
    log: Log;
    judging: boolean;
    onJudge: () => void;
}

const WIDTH = 1000;
const HEIGHT = 190;

/** Play a bench start in its own time: speed as a growing line, the readings beside it, its sound. */
export function BenchPlay({ log, judging, onJudge }: Props) {
    const { job } = useJob();
    const samples = useQuery(samplesQuery(job.id, log.id));
    const [rate, setRate] = useState(1);
    const [at, setAt] = useState(0);
    const [sound, setSound] = useState(false);
    const player = useRef<EngineSound | null>(null);
    const time = useMemo(() => samples.data?.time_s ?? [], [samples.data]);
    const end = time.at(-1) ?? 0;
    const done = end > 0 && at >= end;
    useEffect(() => {
        if (end === 0 || done) return;
        let frame = 0;
        let last: number | null = null;
        const tick = (now: number) => {
            const step = last === null ? 0 : ((now - last) / 1000) * rate;
            last = now;
            setAt((old) => Math.min(end, old + step));
            frame = requestAnimationFrame(tick);
        };
        frame = requestAnimationFrame(tick);
        return () => cancelAnimationFrame(frame);
    }, [end, done, rate]);
    const index = Math.max(0, time.findLastIndex((value) => value <= at));
    const value = (channel: string) => samples.data?.channels[channel]?.[index] ?? 0;
    const speed = value('rpm');
    const firesPerTurn = job.firings_per_turn;
    useEffect(() => {
        if (!sound || done) {
            player.current?.stop();
            player.current = null;
            return;
        }
        player.current ??= new EngineSound();
        player.current.set(speed, firesPerTurn, value('map_kpa'));
    });
    useEffect(() => () => player.current?.stop(), []);
    const path = useMemo(() => {
        const speeds = samples.data?.channels.rpm ?? [];
        const most = Math.max(1000, ...speeds.map((entry) => entry ?? 0)) * 1.08;
        return (until: number) =>
            speeds
                .slice(0, until + 1)
                .map((entry, i) => {
                    const x = ((time[i] ?? 0) / (end || 1)) * WIDTH;
                    return `${i ? 'L' : 'M'}${x.toFixed(1)} ${(HEIGHT - ((entry ?? 0) / most) * HEIGHT).toFixed(1)}`;
                })
                .join('');
    }, [samples.data, time, end]);
    if (samples.isPending) return <Loading what="The engine is cranked" />;
    const readings: [string, string, string][] = [
        ['Time', at.toFixed(1), 's'],
        ['Manifold', formatNumber(toShown(value('map_kpa'), 'kPa', job.units), job.units.pressure === 'bar' ? 2 : 0), shownUnit('kPa', job.units)],
        ['Battery', value('battery_v').toFixed(1), 'V'],
        ['Pulse', value('pulse_ms').toFixed(1), 'ms'],
        ['Idle valve', value('idle_valve_pct').toFixed(0), '%'],
    ];
    return (
        <Box sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.paper', p: 2 }}>
            <PlayHead log={log} rate={rate} sound={sound} onJudge={onJudge} judging={judging} done={done} onRate={setRate} onSound={setSound} />
            <Readings speed={speed} readings={readings} />
            <Box
                component="svg"
                viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
                preserveAspectRatio="none"
                role="img"
                aria-label="Engine speed so far"
                sx={{ width: '100%', height: HEIGHT, mt: 1, color: 'ink.main', borderBottom: 1, borderColor: 'ink.rule' }}
            >
                <path d={path(index)} fill="none" stroke="currentColor" strokeWidth={2} vectorEffect="non-scaling-stroke" />
            </Box>
        </Box>
    );
}

/** Speed in large figures, the other readings beside it. */
function Readings({ speed, readings }: { speed: number; readings: ([string, string, string])[] }) {
    return (
        <Stack direction="row" sx={{ gap: 3, alignItems: 'baseline', flexWrap: 'wrap' }}>
            <Typography component="p" sx={{ fontFamily: mono, fontSize: '2.6rem', lineHeight: 1, minWidth: 190 }}>
                {speed.toFixed(0)}
                <Box component="span" sx={{ fontSize: '1rem', ml: 1 }}>
                    rpm
                </Box>
            </Typography>
            {readings.map(([name, text, unit]) => (
                <Typography key={name} variant="body2">
                    {name}{' '}
                    <Box component="span" sx={{ fontFamily: mono, fontWeight: 600 }}>
                        {text}
                    </Box>{' '}
                    {unit}
                </Typography>
            ))}
        </Stack>
    );
}

interface PlayHeadProps {
    log: Log;
    rate: number;
    sound: boolean;
    onJudge: () => void;
    judging: boolean;
    done: boolean;
    onRate: (rate: number) => void;
    onSound: (sound: boolean) => void;
}

/** Pace, sound, and on to the judgement. */
function PlayHead({ log, rate, sound, onJudge, judging, done, onRate, onSound }: PlayHeadProps) {
    return (
        <Stack direction="row" sx={{ alignItems: 'center', gap: 2, flexWrap: 'wrap', mb: 1 }}>
            <Typography sx={{ flex: 1, minWidth: 200 }}>{log.name}. Simulated.</Typography>
            <ToggleButtonGroup
                exclusive
                size="small"
                value={rate}
                onChange={(_, chosen: number | null) => onRate(chosen ?? rate)}
                aria-label="Speed of play"
            >
                {[1, 4].map((factor) => (
                    <ToggleButton key={factor} value={factor} sx={{ px: 2 }}>
                        {factor} ×
                    </ToggleButton>
                ))}
            </ToggleButtonGroup>
            <Button onClick={() => onSound(!sound)} aria-pressed={sound}>
                {sound ? 'Sound off' : 'Sound on'}
            </Button>
            <Button variant="contained" onClick={onJudge} disabled={judging} sx={{ minHeight: 44 }}>
                {done ? 'Judge this start' : 'Skip and judge'}
            </Button>
        </Stack>
    );
}
