import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { openLive } from '../../api/live';
import { refresh } from '../../api/refresh';
import { Choice } from '../Choice';
import { fieldProblem } from '../fieldProblem';
import { useJob } from '../jobContext';
import { ProblemNote } from '../ProblemNote';
import { QuantityField } from '../QuantityField';

const NONE = 'none';
const HIDDEN = 'hidden';

interface Props {
    coolant: number;
    fresh: boolean;
    faults: Schemas['LiveFaultOut'][];
}

/** Open a session on the simulated controller: what it begins with, and what is hidden in it. */
export function OpenLive({ coolant, fresh, faults }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [temperature, setTemperature] = useState<number | null>(coolant);
    const [fault, setFault] = useState(NONE);
    const [tables, setTables] = useState<Schemas['LiveIn']['tables']>('newest');
    const open = useMutation({
        mutationFn: () => {
            const hidden = faults[Math.floor(Math.random() * faults.length)];
            const chosen = fault === HIDDEN ? (hidden ? [hidden.key] : []) : fault === NONE ? [] : [fault];
            return openLive(job.id, { coolant_c: temperature ?? coolant, faults: chosen, tables, fresh, seed: Math.floor(Math.random() * 1e6) });
        },
        onSuccess: () => refresh(queryClient, job.id, 'live'),
    });
    return (
        <>
            <Typography variant="h3" component="h2">
                Live link
            </Typography>
            <Typography variant="body2" sx={{ mb: 1.5 }}>
                The simulated controller stands in for a car: a simulation, no real engine. This sheet also works without a link; type what you read.
            </Typography>
            <Box sx={{ display: 'grid', gap: 1.5, gridTemplateColumns: { xs: '1fr', sm: '150px minmax(0, 1fr) minmax(0, 1fr) auto' }, alignItems: 'start' }}>
                <QuantityField label="Engine is at" unit="°C" value={temperature} onChange={setTemperature} error={fieldProblem([open.error], 'coolant_c')} />
                <Choice label="Fault in it" value={fault} onChange={setFault} options={{ [NONE]: 'none', [HIDDEN]: 'one, hidden', ...Object.fromEntries(faults.map(({ key, title }) => [key, title])) }} error={fieldProblem([open.error], 'faults')} />
                <Choice label="Its tables" value={tables} onChange={(value) => setTables(value as typeof tables)} options={{ newest: 'the newest of this job', in_car: 'stamped as in the car' }} error={fieldProblem([open.error], 'tables')} />
                <Button variant="outlined" sx={{ minHeight: 44 }} disabled={temperature === null || open.isPending} onClick={() => open.mutate()}>
                    Open the link
                </Button>
            </Box>
            {open.error && <ProblemNote error={open.error} />}
        </>
    );
}
