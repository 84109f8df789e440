import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { Choice } from '../../parts/Choice';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { ReasonBox } from '../../parts/ReasonBox';
import { formatNumber } from '../../units/units';
import { takePass } from './api';

/** Take the correction whole, or between two speeds; where a cause is likely it takes a written reason. */
export function TakeBar({ number, pass }: { number: number; pass: Schemas['FuelMapOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [rpm = [], load = []] = pass.result.axes;
    const [first, setFirst] = useState('0');
    const [last, setLast] = useState(String(rpm.length - 1));
    const isWhole = first === '0' && last === String(rpm.length - 1);
    const take = useMutation({
        mutationFn: (reason: string) =>
            takePass(job.id, number, {
                region: isWhole ? null : { first_row: Number(first), last_row: Number(last), first_column: 0, last_column: load.length - 1 },
                reason,
            }),
        onSuccess: () => refresh(queryClient, job.id, 'fuel-map', 'tables'),
    });
    const moves = pass.result.change.some((row) => row.some((factor) => factor !== 1));
    const speeds = Object.fromEntries(rpm.map((speed, row) => [String(row), `${formatNumber(speed, 0)} rpm`]));
    const newest = pass.taken.at(-1);
    return (
        <Box sx={{ mt: 1.5 }}>
            {newest && (
                <Typography sx={{ mb: 1 }}>
                    Revision {newest.revision} holds {newest.cells.length} cells of it. Drive again: the next log tests them.
                </Typography>
            )}
            {moves && !newest && (
                <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', alignItems: 'center' }}>
                    {pass.result.table !== 'air_meter' && (
                        <>
                            <Choice label="From" value={first} onChange={setFirst} options={speeds} width={130} />
                            <Choice label="To" value={last} onChange={setLast} options={speeds} width={130} />
                        </>
                    )}
                    {pass.result.blocks ? (
                        <ReasonBox title="Take it all the same" label="Why the map is changed although a cause is likely" button="Take it" pending={take.isPending} error={take.error} onWrite={take.mutate} />
                    ) : (
                        <Button variant="contained" sx={{ minHeight: 44 }} disabled={take.isPending} onClick={() => take.mutate('')}>
                            {isWhole ? 'Take it into the map' : 'Take these speeds into the map'}
                        </Button>
                    )}
                </Box>
            )}
            {take.error && !pass.result.blocks && <ProblemNote error={take.error} />}
        </Box>
    );
}
