import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';

import { Group } from '../../../parts/Group';
import { QuantityField } from '../../../parts/QuantityField';
import type { Draft } from './draft';

type Row = Draft['parked'][number];

/** Readings of the parked engine: how long it stood, coolant and air. */
export function ParkedRows({ rows, onChange }: { rows: Row[]; onChange: (rows: Row[]) => void }) {
    const last = rows.at(-1)?.parking ?? 'first night';
    const change = (at: number, part: Partial<Row>) => onChange(rows.map((row, i) => (i === at ? { ...row, ...part } : row)));
    return (
        <Group title="Parked readings: they teach how this engine cools" columns="minmax(0, 1.4fr) repeat(3, minmax(0, 1fr)) auto">
            {rows.map((row, i) => (
                <ParkedRow key={i} row={row} onChange={(part) => change(i, part)} onRemove={() => onChange(rows.filter((_, j) => j !== i))} />
            ))}
            <Button
                variant="outlined"
                onClick={() => onChange([...rows, { parking: last, stood_h: null, coolant_c: null, ambient_c: null }])}
                sx={{ gridColumn: '1' }}
            >
                Add a reading
            </Button>
        </Group>
    );
}

function ParkedRow({ row, onChange, onRemove }: { row: Row; onChange: (part: Partial<Row>) => void; onRemove: () => void }) {
    return (
        <>
            <TextField label="Which standing" value={row.parking} onChange={(event) => onChange({ parking: event.target.value })} />
            <QuantityField label="Stood" unit="h" value={row.stood_h} onChange={(stood_h) => onChange({ stood_h })} />
            <QuantityField label="Coolant" unit="°C" value={row.coolant_c} onChange={(coolant_c) => onChange({ coolant_c })} />
            <QuantityField label="Air" unit="°C" value={row.ambient_c} onChange={(ambient_c) => onChange({ ambient_c })} />
            <Button onClick={onRemove}>Remove</Button>
        </>
    );
}
