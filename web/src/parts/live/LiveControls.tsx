import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Slider from '@mui/material/Slider';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';

import type { Schemas } from '../../api/client';
import { liveQuery, type Command } from '../../api/live';
import { sessionQuery } from '../../api/vocabulary';
import { useJob } from '../jobContext';
import { ProblemNote } from '../ProblemNote';
import { useCommand } from './useCommand';
import type { Live } from './useLive';

const LARGE = { minHeight: 56, fontSize: '1.05rem', px: 2 } as const;
const ADVANCE = 10;

/** Key, starter, pedal, loads, timing and the kill switch, for a gloved thumb. */
export function LiveControls({ live }: { live: Live }) {
    const command = useCommand(live);
    const controls = live.view.state?.controls;
    if (!controls) return <Typography variant="body2">The link opens …</Typography>;
    const isKilled = !controls.injection && !controls.ignition;
    return (
        <Box>
            <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', my: 1 }}>
                <Button variant={controls.key ? 'contained' : 'outlined'} aria-pressed={controls.key} sx={LARGE} onClick={() => command.now({ key: !controls.key })}>
                    {controls.key ? 'Key is on' : 'Key on'}
                </Button>
                <StarterButton isOn={Boolean(controls.key)} isTurning={Boolean(controls.starter)} hold={(starter) => command.now({ starter })} />
                <Button variant="outlined" color="error" sx={LARGE} onClick={() => command.now({ injection: isKilled, ignition: isKilled })}>
                    {isKilled ? 'Fuel and spark on again' : 'Kill fuel and spark'}
                </Button>
                <HeldBy live={live} tablet={command.tablet} onTake={() => command.now({ take: true })} />
            </Box>
            <Pedal value={controls.throttle_pct} soon={command.soon} />
            <Switches controls={controls} now={command.now} />
            {command.error && <ProblemNote error={command.error} />}
        </Box>
    );
}

/** Turns as long as it is held. */
function StarterButton({ isOn, isTurning, hold }: { isOn: boolean; isTurning: boolean; hold: (turning: boolean) => void }) {
    const isHeld = useRef(false);
    const press = () => {
        if (!isOn) return;
        isHeld.current = true;
        hold(true);
    };
    const leave = () => {
        if (!isHeld.current && !isTurning) return;
        isHeld.current = false;
        hold(false);
    };
    const isTurnKey = (event: React.KeyboardEvent) => (event.key === ' ' || event.key === 'Enter') && !event.repeat;
    return (
        <Button
            variant={isTurning ? 'contained' : 'outlined'}
            disabled={!isOn}
            aria-pressed={isTurning}
            sx={{ ...LARGE, touchAction: 'none', userSelect: 'none' }}
            onPointerDown={press}
            onPointerUp={leave}
            onPointerLeave={leave}
            onPointerCancel={leave}
            onContextMenu={(event) => event.preventDefault()}
            onKeyDown={(event) => isTurnKey(event) && press()}
            onKeyUp={(event) => isTurnKey(event) && leave()}
        >
            {isTurning ? 'It cranks' : 'Hold to crank'}
        </Button>
    );
}

/** Who holds the key, where it is somebody else. */
function HeldBy({ live: { view }, tablet, onTake }: { live: Live; tablet: string; onTake: () => void }) {
    const me = useQuery(sessionQuery).data?.username;
    const { held_by, tablet: theirs } = view.state ?? {};
    if (!held_by || theirs === tablet) return null;
    return (
        <Typography variant="body2" component="div" sx={{ alignSelf: 'center' }}>
            {held_by} holds the key on another tablet. {held_by === me && <Button onClick={onTake}>Take it here</Button>}
        </Typography>
    );
}

function Pedal({ value, soon }: { value: number; soon: (command: Command) => void }) {
    const [drawn, setDrawn] = useState<number | null>(null);
    return (
        <Box sx={{ display: 'flex', gap: 2, alignItems: 'center', px: 1, maxWidth: 560 }}>
            <Typography component="span" id="pedal">
                Pedal
            </Typography>
            <Slider
                aria-labelledby="pedal"
                min={0}
                max={100}
                value={drawn ?? value}
                valueLabelDisplay="auto"
                valueLabelFormat={(percent) => `${percent} %`}
                onChange={(_, next) => (setDrawn(next), soon({ throttle_pct: next }))}
                onChangeCommitted={(_, next) => (setDrawn(null), soon({ throttle_pct: next }))}
            />
            <Typography component="span" sx={{ minWidth: 52, textAlign: 'right' }}>
                {Math.round(drawn ?? value)} %
            </Typography>
        </Box>
    );
}

/** What is switched on, held or unplugged, and how quick time passes. */
function Switches({ controls, now }: { controls: Schemas['Controls']; now: (command: Command) => void }) {
    const { job } = useJob();
    const words = useQuery(liveQuery(job.id)).data;
    const loads = new Set<string>(controls.loads ?? []);
    const turn = (load: string) => now({ load: loads.has(load) ? [...loads].filter((other) => other !== load) : [...loads, load] });
    const isLocked = controls.lock_timing_deg !== null && controls.lock_timing_deg !== undefined;
    const toggle = { textTransform: 'none', minHeight: 44, px: 1.5 } as const;
    return (
        <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1, mt: 1, alignItems: 'center' }}>
            {Object.entries(words?.loads ?? {}).map(([key, title]) => (
                <ToggleButton key={key} value={key} selected={loads.has(key)} onChange={() => turn(key)} sx={toggle}>
                    {title}
                </ToggleButton>
            ))}
            <ToggleButton value="lock" selected={isLocked} onChange={() => now({ lock_timing_deg: isLocked ? null : ADVANCE })} sx={toggle}>
                Timing locked at {ADVANCE}°
            </ToggleButton>
            <ToggleButton value="plugs" selected={controls.plugs_out} onChange={() => now({ plugs_out: !controls.plugs_out })} sx={toggle}>
                Plugs out
            </ToggleButton>
            <ToggleButton value="injection" selected={!controls.injection} onChange={() => now({ injection: !controls.injection })} sx={toggle}>
                Injectors unplugged
            </ToggleButton>
            <ToggleButton value="ignition" selected={!controls.ignition} onChange={() => now({ ignition: !controls.ignition })} sx={toggle}>
                Coils unplugged
            </ToggleButton>
            <ToggleButtonGroup exclusive size="small" value={controls.speed} aria-label="How quick time passes" onChange={(_, speed: number | null) => speed && now({ speed })}>
                {(words?.speeds ?? []).map((speed) => (
                    <ToggleButton key={speed} value={speed} sx={toggle}>
                        {speed} ×
                    </ToggleButton>
                ))}
            </ToggleButtonGroup>
        </Box>
    );
}
