import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { morningsQuery, readyQuery, saveMornings, type Mornings } from '../../../api/mornings';
import { Group } from '../../../parts/Group';
import { useJob } from '../../../parts/jobContext';
import { ProblemNote } from '../../../parts/ProblemNote';
import { QuantityField } from '../../../parts/QuantityField';
import { draftOf, entryOf, localIso, nextDays, type Draft } from './draft';
import { ParkedRows } from './ParkedRows';

const DAYS = 7;
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** What is known of the mornings: minima, climate, and how the engine stands. */
export function MorningsForm({ mornings }: { mornings: Mornings }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [draft, setDraft] = useState(() => draftOf(mornings));
    const change = (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part }));
    const save = useMutation({
        mutationFn: () => saveMornings(job.id, entryOf(draft)),
        onSuccess: (saved) => {
            queryClient.setQueryData(morningsQuery(job.id).queryKey, saved);
            return queryClient.invalidateQueries({ queryKey: readyQuery.queryKey });
        },
    });
    return (
        <Box component="form" sx={{ mt: 3 }} onSubmit={(event) => (event.preventDefault(), save.mutate())}>
            <Minima draft={draft} onChange={change} />
            <Stop draft={draft} onChange={change} />
            <ParkedRows rows={draft.parked} onChange={(parked) => change({ parked })} />
            <Climate draft={draft} onChange={change} />
            {save.isError && <ProblemNote error={save.error} />}
            <Button type="submit" variant="contained" size="large" disabled={save.isPending}>
                Save and plan
            </Button>
        </Box>
    );
}

interface PartProps {
    draft: Draft;
    onChange: (part: Partial<Draft>) => void;
}

function Minima({ draft, onChange }: PartProps) {
    return (
        <Group title="Expected minima" columns="repeat(4, minmax(0, 1fr))">
            {nextDays(DAYS).map((day) => (
                <QuantityField
                    key={day}
                    label={new Date(`${day}T12:00:00`).toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric', month: 'short' })}
                    unit="°C"
                    value={draft.minima[day]}
                    onChange={(value) => onChange({ minima: { ...draft.minima, [day]: value } })}
                />
            ))}
            <TextField
                label="Or paste days, °C"
                multiline
                maxRows={4}
                value={draft.pasted}
                onChange={(event) => onChange({ pasted: event.target.value })}
                placeholder="2026-12-01 -4.5"
                slotProps={{ inputLabel: { shrink: true } }}
            />
        </Group>
    );
}

function Stop({ draft, onChange }: PartProps) {
    return (
        <Group title="How it stands now" columns="repeat(4, minmax(0, 1fr))">
            <TextField
                label="Switched off"
                type="datetime-local"
                value={draft.stoppedAt}
                onChange={(event) => onChange({ stoppedAt: event.target.value })}
                slotProps={{ inputLabel: { shrink: true } }}
            />
            <QuantityField label="Coolant then" unit="°C" value={draft.stopped} onChange={(stopped) => onChange({ stopped })} />
            <QuantityField label="Air around it" unit="°C" value={draft.ambient} onChange={(ambient) => onChange({ ambient })} />
            <Button variant="outlined" onClick={() => onChange({ stoppedAt: localIso(new Date()) })}>
                Switched off now
            </Button>
        </Group>
    );
}

function Climate({ draft, onChange }: PartProps) {
    return (
        <Group title="Climate: mean minimum of each month" columns="repeat(6, minmax(0, 1fr))">
            {MONTHS.map((month, i) => (
                <QuantityField
                    key={month}
                    label={month}
                    unit="°C"
                    value={draft.monthly[i]}
                    onChange={(value) => onChange({ monthly: draft.monthly.map((c, j) => (j === i ? value : c)) })}
                />
            ))}
        </Group>
    );
}
