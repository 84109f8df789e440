import Box from '@mui/material/Box';
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

export function CircumstanceFields({ value, onChange, askCoolant, extra }: Props) {
    const { job } = useJob();
    const degrees = shownUnit('°C', job.units);
    const set = (name: keyof Circumstances) => (text: string) => onChange({ ...value, [name]: text });
    return (
        <Box sx={{ display: 'grid', gap: 1.5, gridTemplateColumns: { xs: '1fr 1fr', sm: 'repeat(5, minmax(0, 180px))' } }}>
            {askCoolant && (
                <NumberField label="Coolant before" unit={degrees} value={value.coolant} onChange={set('coolant')} required />
            )}
            <NumberField label="Outside" unit={degrees} value={value.ambient} onChange={set('ambient')} />
            <NumberField label="Stood for" unit="h" value={value.soak} onChange={set('soak')} />
            <NumberField
                label="Revision in the car"
                value={value.revision}
                onChange={set('revision')}
                placeholder={String(job.revision)}
            />
            {extra}
        </Box>
    );
}
