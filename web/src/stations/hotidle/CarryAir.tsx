import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap } from '../../api/client';
import { fieldProblem } from '../../parts/fieldProblem';
import { PointGrid, type Row } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import { SmallTable } from '../../parts/SmallTable';
import { formatNumber } from '../../units/units';

const column = (rows: Row[], place: number) => rows.flatMap((row) => (row[place] === null || row[place] === undefined ? [] : [row[place]]));
const PAIR = (unit: string) => [
    { title: 'Opening', unit },
    { title: 'Passes', unit: 'g/s' },
];

/** Idle openings from elsewhere as the same air through the actuator that is fitted here. */
export function CarryAir() {
    const [openings, setOpenings] = useState<Row[]>([]);
    const [theirs, setTheirs] = useState<Row[]>([]);
    const [ours, setOurs] = useState<Row[]>([]);
    const flow = (rows: Row[]) => ({ openings: column(rows, 0), flows_gps: column(rows, 1) });
    const carry = useMutation({
        mutationFn: () => unwrap(client.POST('/api/idle/carry', { body: { openings: column(openings, 0), here: flow(theirs), there: flow(ours) } })),
    });
    const isTyped = column(openings, 0).length > 0 && column(theirs, 1).length > 1 && column(ours, 1).length > 1;
    const found = carry.data;
    return (
        <Box component="section" aria-label="Carry idle air" sx={{ mb: 3 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Idle air from another car
            </Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                A table in duty, steps or degrees of another actuator becomes one for yours, by the air that each passes.
            </Typography>
            <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '160px repeat(2, minmax(0, 1fr))' }, alignItems: 'start' }}>
                <PointGrid title="Their table" columns={[{ title: 'Opening', unit: '' }]} rows={openings} onChange={setOpenings} error={fieldProblem([carry.error], 'openings')} />
                <PointGrid title="Their actuator" columns={PAIR('')} rows={theirs} onChange={setTheirs} error={fieldProblem([carry.error], 'here')} />
                <PointGrid title="Your actuator" columns={PAIR('')} rows={ours} onChange={setOurs} error={fieldProblem([carry.error], 'there')} />
            </Box>
            <Button variant="outlined" sx={{ my: 1.5 }} disabled={!isTyped || carry.isPending} onClick={() => carry.mutate()}>
                Carry it over
            </Button>
            {carry.error && <ProblemNote error={carry.error} />}
            {found && (
                <>
                    <Sentences sentences={found.sentences} level={found.short_gps.some((short) => short !== 0) ? 'attention' : 'good'} />
                    <SmallTable
                        title="On your actuator"
                        heads={['theirs', 'air [g/s]', 'yours', 'short [g/s]']}
                        rows={found.openings.map((opening, i) => [formatNumber(column(openings, 0)[i] ?? 0, 1), formatNumber(found.flows_gps[i] ?? 0, 2), formatNumber(opening, 1), formatNumber(found.short_gps[i] ?? 0, 2)])}
                    />
                </>
            )}
        </Box>
    );
}
