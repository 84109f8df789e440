import Box from '@mui/material/Box';
import { useState } from 'react';

import type { Hardware, KeyOnCheck, SensorRow } from '../../api/client';
import { SensorEditor } from './SensorEditor';
import { SensorList } from './SensorList';

interface Props {
    hardware: Hardware;
    sensors: SensorRow[];
    check: KeyOnCheck | undefined;
    chosen: string | undefined;
}

/** The list of functions, and the one that is being entered. */
export function SensorSheet({ hardware, sensors, check, chosen }: Props) {
    const [touched, setTouched] = useState(0);
    const firstOpen = hardware.functions.find(
        ({ key, needed }) => needed === 'always' && !sensors.some((row) => row.function === key),
    );
    const key = hardware.functions.some((entry) => entry.key === chosen)
        ? chosen
        : (firstOpen ?? hardware.functions[0])?.key;
    const definition = hardware.functions.find((entry) => entry.key === key);
    if (!definition) return null;
    const row = sensors.find((entry) => entry.function === key);
    return (
        <Box sx={{ flex: 1, display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '216px minmax(0, 1fr)' }, gridTemplateRows: { xs: 'auto 1fr', md: 'auto' }, minWidth: 0 }}>
            <SensorList hardware={hardware} sensors={sensors} check={check} chosen={definition.key} />
            <SensorEditor
                key={`${definition.key}.${row?.number ?? 0}.${touched}`}
                hardware={hardware}
                definition={definition}
                row={row}
                onReset={() => setTouched(touched + 1)}
            />
        </Box>
    );
}
