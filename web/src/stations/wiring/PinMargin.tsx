import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';

import type { Schemas, WiringVocabulary } from '../../api/client';
import { Facts } from '../../parts/Facts';
import { lineWords } from './lineWords';
import { ON_THIS_PIN } from './onThisPin';
import type { WiringWork } from './useWiring';

interface Props {
    pin: Schemas['Pin'] | undefined;
    work: WiringWork;
    words: WiringVocabulary;
}

/** What the selected pin can do, what is on it, and putting something else there. */
export function PinMargin({ pin, work, words }: Props) {
    if (!pin) {
        return (
            <Typography variant="body2">
                Choose a pin: what it can do, what hangs on it and its wire stand here. Dashed pins are spare, ✎ marks what was
                placed by hand, △ what changed after the sign-off.
            </Typography>
        );
    }
    const titles = Object.fromEntries(words.capabilities.map(({ key, title }) => [key, title]));
    const placed = work.plan.allocation.placed.find((entry) => entry.pin === pin.name);
    const about = work.plan.functions.find((entry) => entry.key === placed?.function);
    const line = work.plan.lines.find((entry) => entry.pin === pin.name);
    const isShared = pin.capabilities.some((key) => words.shared.includes(key));
    const bounds = [
        pin.pull_up !== 'none' && `pull-up ${pin.pull_up}${pin.pull_up_ohm ? `, ${pin.pull_up_ohm} Ω` : ''}`,
        pin.current_a && `up to ${pin.current_a} A`,
        pin.highest_hz && `${pin.lowest_hz ?? 0} to ${pin.highest_hz} Hz`,
        pin.capabilities.includes('injector') && pin.injector_class === 'current_limiting' && 'limits the current',
    ].filter(Boolean);
    return (
        <>
            <Typography variant="h2">Pin {pin.name}</Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                {pin.capabilities.map((key) => titles[key]).join('; ') || 'No known ability'}
                {bounds.length > 0 && ` (${bounds.join(', ')})`}.{pin.note && ` ${pin.note}`}
            </Typography>
            {!isShared && (
                <TextField
                    select
                    fullWidth
                    label="On this pin"
                    value={placed?.function ?? ''}
                    onChange={(event) => {
                        if (event.target.value) work.place(event.target.value, pin.name);
                    }}
                    slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true, SelectDisplayProps: { id: ON_THIS_PIN } } }}
                    sx={{ mb: 1.5 }}
                >
                    <MenuItem value="">spare</MenuItem>
                    {work.plan.functions.map((entry) => (
                        <MenuItem key={entry.key} value={entry.key}>
                            {entry.title}
                        </MenuItem>
                    ))}
                </TextField>
            )}
            {placed?.by_hand && (
                <Button size="small" variant="outlined" sx={{ mb: 1.5 }} onClick={() => work.place(placed.function, null)}>
                    Placed by hand: let it be computed
                </Button>
            )}
            {about && (
                <Typography variant="body2" sx={{ mb: 1 }}>
                    {about.title} needs {about.ways.length > 1 ? 'one of: ' : ''}
                    {[...new Set(about.ways.map((way) => titles[way.capability]))].join('; ')}.
                </Typography>
            )}
            {line && (
                <>
                    <Facts
                        title={`Wire ${line.colour}`}
                        facts={[
                            { name: 'Size', value: line.size_mm2, unit: 'mm²', decimals: 2 },
                            { name: 'American gauge', value: line.gauge, unit: 'AWG', decimals: 0 },
                            { name: 'Length', value: line.length_m, unit: 'm', decimals: 1 },
                            { name: 'Current', value: line.current_a, unit: 'A', decimals: 2 },
                            { name: 'Lost along it, warm', value: line.drop_v, unit: 'V', decimals: 2 },
                            ...(line.fuse_a ? [{ name: 'Fuse', value: line.fuse_a, unit: 'A', decimals: 1 }] : []),
                        ]}
                    />
                    {lineWords(line).map((text) => (
                        <Typography key={text} variant="body2">
                            {text}
                        </Typography>
                    ))}
                    <Typography variant="caption" component="p" sx={{ mt: 1 }}>
                        {words.size_source}
                    </Typography>
                </>
            )}
        </>
    );
}
