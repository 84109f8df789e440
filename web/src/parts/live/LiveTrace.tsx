import Box from '@mui/material/Box';
import { useColorScheme } from '@mui/material/styles';
import { useEffect, useRef } from 'react';

import { useJob } from '../jobContext';
import { formatNumber, shownUnit, toShown } from '../../units/units';
import { CHART_LETTERS_PX } from '../useWidth';
import type { LiveLink } from './link';

interface Props {
    link: LiveLink;
    channels: readonly string[];
    /** Of one strip. [px] */
    height?: number;
}

interface Look {
    title: string;
    unit: string;
    decimals: number;
    low: number;
    high: number;
}

const LOOKS: Record<string, Look> = {
    rpm: { title: 'speed', unit: 'rpm', decimals: 0, low: 0, high: 1500 },
    map_kpa: { title: 'manifold', unit: 'kPa', decimals: 0, low: 20, high: 105 },
    lambda: { title: 'mixture', unit: 'lambda', decimals: 2, low: 0.7, high: 1.35 },
    idle_valve_pct: { title: 'idle valve', unit: '%', decimals: 1, low: 0, high: 60 },
    oil_pressure_kpa: { title: 'oil', unit: 'kPa', decimals: 0, low: 0, high: 400 },
    fuel_pressure_kpa: { title: 'fuel', unit: 'kPa', decimals: 0, low: 0, high: 400 },
    battery_v: { title: 'battery', unit: 'V', decimals: 1, low: 9, high: 15 },
};
const SPAN_S = 30;
const VALUE_WIDTH = 112;

/** The last half minute of a session, drawn as it comes. */
export function LiveTrace({ link, channels, height = 58 }: Props) {
    const { job } = useJob();
    const canvas = useRef<HTMLCanvasElement>(null);
    const { mode, systemMode } = useColorScheme();
    const scheme = mode === 'system' ? systemMode : mode;
    useEffect(() => {
        const element = canvas.current;
        if (!element) return undefined;
        const style = getComputedStyle(element);
        const colour = (name: string) => style.getPropertyValue(`--mui-palette-${name}`).trim();
        const ink = { line: colour('ink-main'), text: colour('text-primary'), faint: colour('text-secondary'), rule: colour('divider'), font: style.fontFamily };
        let frame = 0;
        const draw = () => {
            frame = 0;
            const ratio = devicePixelRatio;
            const width = element.clientWidth;
            if (element.width !== Math.round(width * ratio)) element.width = Math.round(width * ratio);
            if (element.height !== Math.round(height * channels.length * ratio)) element.height = Math.round(height * channels.length * ratio);
            const pen = element.getContext('2d');
            if (!pen) return;
            pen.setTransform(ratio, 0, 0, ratio, 0, 0);
            pen.clearRect(0, 0, width, height * channels.length);
            const time = link.channel('time_s');
            const end = time.at(-1) ?? 0;
            const from = Math.max(0, time.findIndex((at) => (at ?? 0) >= end - SPAN_S));
            channels.forEach((name, place) => {
                const look = LOOKS[name];
                if (!look) return;
                const values = link.channel(name);
                const seen = values.slice(from).filter((value): value is number => value !== null);
                const low = Math.min(look.low, ...seen);
                const high = Math.max(look.high, ...seen);
                const top = place * height;
                const room = height - 8;
                const plot = width - VALUE_WIDTH;
                pen.strokeStyle = ink.rule;
                pen.lineWidth = 1;
                pen.strokeRect(0.5, top + 3.5, plot - 1, room);
                pen.strokeStyle = ink.line;
                pen.lineWidth = 1.8;
                pen.beginPath();
                let wasThere = false;
                for (let i = from; i < values.length; i += 1) {
                    const value = values[i];
                    const at = time[i];
                    const before = time[i - 1];
                    if (value === null || value === undefined || at === null || at === undefined) {
                        wasThere = false;
                        continue;
                    }
                    const x = ((at - end + SPAN_S) / SPAN_S) * (plot - 2) + 1;
                    const y = top + 3 + room - ((value - low) / (high - low)) * (room - 4) - 2;
                    // A pause is no line.
                    if (wasThere && before !== null && before !== undefined && at - before < 1) pen.lineTo(x, y);
                    else pen.moveTo(x, y);
                    wasThere = true;
                }
                pen.stroke();
                const last = link.last(name);
                const unit = shownUnit(look.unit, job.units);
                pen.fillStyle = ink.faint;
                pen.font = `${CHART_LETTERS_PX}px ${ink.font}`;
                pen.textBaseline = 'top';
                pen.fillText(look.title, plot + 8, top + 6);
                pen.fillStyle = ink.text;
                pen.font = `600 17px ${ink.font}`;
                pen.fillText(last === null ? '–' : `${formatNumber(toShown(last, look.unit, job.units), look.decimals)} ${unit}`, plot + 8, top + 23);
            });
        };
        const ask = () => {
            frame ||= requestAnimationFrame(draw);
        };
        const leave = link.subscribe(ask);
        const resize = new ResizeObserver(ask);
        resize.observe(element);
        ask();
        return () => {
            leave();
            resize.disconnect();
            cancelAnimationFrame(frame);
        };
    }, [link, channels, height, scheme, job.units]);
    return (
        <Box sx={{ my: 1 }}>
            <canvas ref={canvas} role="img" aria-label="Live traces of the last half minute" style={{ display: 'block', width: '100%', height: height * channels.length }} />
        </Box>
    );
}
