import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useRef, type KeyboardEvent } from 'react';

import type { Schemas, WiringPlan } from '../../api/client';
import { mono } from '../../parts/theme';
import { visuallyHidden } from '../../parts/visuallyHidden';

import { ON_THIS_PIN } from './onThisPin';

type Pin = Schemas['Pin'];

interface Props {
    connector: Schemas['Connector'];
    pins: Pin[];
    plan: WiringPlan;
    selected: string | null;
    onSelect: (pin: string) => void;
    shared: readonly string[];
    titles: Record<string, string>;
    changed: ReadonlySet<string>;
}

const VIEWS = { wire_side: 'seen from the wires', mating_side: 'seen from the mating face' } as const;

/** One plug face-on: every pin in its place with what is on it. Arrow keys move, Enter selects. */
export function ConnectorFace({ connector, pins, plan, selected, onSelect, shared, titles, changed }: Props) {
    const grid = useRef<HTMLDivElement>(null);
    const byPlace = new Map(pins.map((pin) => [`${pin.row}.${pin.column}`, pin]));
    const shorts = new Map(plan.functions.map((entry) => [entry.key, entry]));
    const placed = new Map(plan.allocation.placed.map((entry) => [entry.pin, entry]));
    const wires = new Map(plan.lines.map((line) => [line.pin, `${line.colour} ${line.size_mm2} mm²`]));
    const first = pins.some((pin) => pin.name === selected) ? selected : pins[0]?.name;
    const move = (event: KeyboardEvent, pin: Pin) => {
        const steps: Record<string, [number, number]> = {
            ArrowLeft: [0, -1],
            ArrowRight: [0, 1],
            ArrowUp: [-1, 0],
            ArrowDown: [1, 0],
        };
        const step = steps[event.key];
        if (!step) return;
        event.preventDefault();
        let [row, column] = [pin.row + step[0], pin.column + step[1]];
        while (row >= 1 && row <= connector.rows && column >= 1 && column <= connector.columns) {
            const next = byPlace.get(`${row}.${column}`);
            if (next) {
                grid.current?.querySelector<HTMLElement>(`[data-pin="${CSS.escape(next.name)}"]`)?.focus();
                return;
            }
            row += step[0];
            column += step[1];
        }
    };
    return (
        <Box component="section" aria-label={connector.title} sx={{ mb: 2 }}>
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                {connector.name} · {connector.title}{' '}
                <Typography component="span" variant="caption">
                    {VIEWS[connector.view]}
                </Typography>
            </Typography>
            <Box sx={{ overflowX: 'auto', pb: 0.5 }}>
                <Box
                    ref={grid}
                    role="grid"
                    aria-label={`Pins of ${connector.title}`}
                    sx={{
                        border: 2,
                        borderColor: 'ink.main',
                        borderRadius: '6px',
                        p: 0.5,
                        bgcolor: 'background.paper',
                        minWidth: connector.columns * 62,
                        display: 'grid',
                        gap: 0.5,
                    }}
                >
                    {Array.from({ length: connector.rows }, (_, row) => (
                        <Box role="row" key={row} sx={{ display: 'grid', gap: 0.5, gridTemplateColumns: `repeat(${connector.columns}, minmax(0, 1fr))` }}>
                            {Array.from({ length: connector.columns }, (__, column) => {
                                const pin = byPlace.get(`${row + 1}.${column + 1}`);
                                if (!pin) return <Box role="gridcell" key={column} aria-label="no pin" />;
                                const use = placed.get(pin.name);
                                const what = use ? shorts.get(use.function) : undefined;
                                const isShared = pin.capabilities.some((key) => shared.includes(key));
                                const text = what ? what.short : isShared ? (titles[pin.capabilities[0] ?? ''] ?? '') : '';
                                return (
                                    <Box role="gridcell" key={column}>
                                        <PinButton
                                            onPin={{ pin, use, what, isShared, text, wire: wires.get(pin.name) ?? '' }}
                                            isFirst={pin.name === first}
                                            isSelected={pin.name === selected}
                                            isChanged={what !== undefined && changed.has(what.key)}
                                            onSelect={onSelect}
                                            onMove={move}
                                        />
                                    </Box>
                                );
                            })}
                        </Box>
                    ))}
                </Box>
            </Box>
        </Box>
    );
}

/** A pin and what is on it: its function, the words for it, and its wire. */
interface OnPin {
    pin: Pin;
    use: WiringPlan['allocation']['placed'][number] | undefined;
    what: WiringPlan['functions'][number] | undefined;
    isShared: boolean;
    text: string;
    wire: string;
}

interface PinButtonProps {
    onPin: OnPin;
    isFirst: boolean;
    isSelected: boolean;
    isChanged: boolean;
    onSelect: (pin: string) => void;
    onMove: (event: KeyboardEvent, pin: Pin) => void;
}

/** One pin: its name, and what is on it. */
function PinButton({ onPin, isFirst, isSelected, isChanged, onSelect, onMove }: PinButtonProps) {
    const { pin, use, what, isShared, text, wire } = onPin;
    const isLater = what?.importance === 'later';
    return (
        <Box
            component="button"
            type="button"
            data-pin={pin.name}
            tabIndex={isFirst ? 0 : -1}
            aria-pressed={isSelected}
            onFocus={() => onSelect(pin.name)}
            title={[`Pin ${pin.name}`, what?.title ?? (isShared ? text : 'spare'), wire].filter(Boolean).join(', ')}
            onClick={(event) => {
                onSelect(pin.name);
                // By keyboard: on to what is on the pin.
                if (event.detail === 0) document.getElementById(ON_THIS_PIN)?.focus();
            }}
            onKeyDown={(event) => onMove(event, pin)}
            sx={{
                width: '100%',
                height: 62,
                position: 'relative', // keeps the hidden words inside
                p: 0.4,
                font: 'inherit',
                textAlign: 'left',
                cursor: 'pointer',
                display: 'flex',
                flexDirection: 'column',
                overflow: 'hidden',
                color: what || isShared ? 'text.primary' : 'ink.faint',
                bgcolor: isShared ? 'background.default' : 'transparent',
                border: isSelected ? 2 : 1,
                borderStyle: what && !isLater ? 'solid' : 'dashed',
                borderColor:
                    isSelected ? 'primary.main' : what ? 'ink.main' : 'ink.rule',
                borderRadius: '4px',
                outline: isSelected ? '2px solid' : 'none',
                outlineColor: 'primary.main',
            }}
        >
            <PinName name={pin.name} isByHand={use?.by_hand ?? false} isChanged={isChanged} />
            <Box component="span" sx={{ fontSize: '0.8rem', lineHeight: 1.12, overflowWrap: 'anywhere', fontWeight: what ? 600 : 400 }}>
                {text || (
                    <Box component="span" sx={visuallyHidden}>
                        spare
                    </Box>
                )}
            </Box>
        </Box>
    );
}

/** The pin's name, and whether it was placed by hand or changed since the sign-off. */
function PinName({ name, isByHand, isChanged }: { name: string; isByHand: boolean; isChanged: boolean }) {
    return (
        <Box component="span" sx={{ fontFamily: mono, fontSize: '0.75rem', lineHeight: 1.15, display: 'flex', justifyContent: 'space-between', width: '100%' }}>
            <span>
                <Box component="span" sx={visuallyHidden}>
                    Pin{' '}
                </Box>
                {name}
                <Box component="span" sx={visuallyHidden}>
                    :{' '}
                </Box>
            </span>
            {isByHand && <span aria-hidden>✎</span>}
            {isChanged && (
                <Box component="span" aria-hidden sx={{ color: 'warning.main', fontWeight: 700 }}>
                    △
                </Box>
            )}
        </Box>
    );
}
