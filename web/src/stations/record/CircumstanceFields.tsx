import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import type { ReactNode } from 'react';

import { useJob } from '../../parts/jobContext';
import { shownUnit } from '../../units/units';
import { NumberField } from '../../parts/NumberField';
import type { Circumstances } from './circumstances';

interface Props {
    value: Circumstances;
    onChange: (value: Circumstances) => void;
    askCoolant: boolean;
    /** A further field in the same row. */
    extra?: ReactNode;
}

function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
    return <FormControlLabel control={<Checkbox checked={on} onChange={(_, next) => onChange(next)} />} label={label} />;
}

/** What a log does not know of a start: weather, rest, revision, attempt, and what was seen and smelled. */
export function CircumstanceFields({ value, onChange, askCoolant, extra }: Props) {
    const { job } = useJob();
    const degrees = shownUnit('°C', job.units);
    const set = (name: 'coolant' | 'ambient' | 'soak' | 'revision' | 'attempt') => (text: string) => onChange({ ...value, [name]: text });
    const tick = (name: 'smoke' | 'smell') => (on: boolean) => onChange({ ...value, [name]: on });
    return (
        <Box sx={{ display: 'grid', gap: 1.5, gridTemplateColumns: { xs: '1fr 1fr', sm: 'repeat(auto-fill, minmax(165px, 180px))' } }}>
            {askCoolant && <NumberField label="Coolant before" unit={degrees} value={value.coolant} onChange={set('coolant')} required />}
            <NumberField label="Outside" unit={degrees} value={value.ambient} onChange={set('ambient')} />
            <NumberField label="Stood for" unit="h" value={value.soak} onChange={set('soak')} />
            <NumberField
                label="Revision in the car"
                value={value.revision}
                onChange={set('revision')}
                placeholder={String(job.revision)}
            />
            {extra}
            <Box sx={{ gridColumn: '1 / -1', display: 'flex', flexWrap: 'wrap', gap: 1.5, alignItems: 'center' }}>
                <Box sx={{ width: 180 }}>
                    <NumberField label="Attempt this morning" value={value.attempt} onChange={set('attempt')} placeholder="1" />
                </Box>
                <Tick label="Black smoke" on={value.smoke} onChange={tick('smoke')} />
                <Tick label="Smell of fuel" on={value.smell} onChange={tick('smell')} />
            </Box>
        </Box>
    );
}
