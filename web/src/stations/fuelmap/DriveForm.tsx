import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { benchQuery } from '../../api/bench';
import { refresh } from '../../api/refresh';
import { Choice } from '../../parts/Choice';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { driveBench } from './api';
import { useTask } from '../../parts/useTask';

const NONE = 'none';

/** A drive of the simulated engine, to practise on: it says so wherever it shows. */
export function DriveForm({ pedalSteps = false }: { pedalSteps?: boolean }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const faults = useQuery(benchQuery).data?.drive_faults ?? [];
    const [fault, setFault] = useState(NONE);
    const drive = useTask<string, { log_id: number }>(
        (hidden) => driveBench(job.id, { engine: 'stand_in', faults: hidden === NONE ? [] : [hidden], minutes: 6, pedal_steps: pedalSteps, seed: Math.floor(Math.random() * 1e6) }),
        () => refresh(queryClient, job.id, 'logs'),
    );
    return (
        <Box sx={{ mb: 2 }}>
            <Typography variant="body2" sx={{ mb: 1 }}>
                No car at hand? A simulated engine like this job&apos;s, {pedalSteps ? 'its pedal stepped' : 'driven'} for six minutes. It is a simulation and stands for no real engine.
            </Typography>
            <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
                <Choice label="Hidden in it" value={fault} onChange={setFault} options={{ [NONE]: 'nothing', ...Object.fromEntries(faults.map(({ key, title }) => [key, title])) }} width={260} />
                <Button variant="outlined" sx={{ minHeight: 44 }} disabled={drive.isPending} onClick={() => drive.begin(fault)}>
                    {drive.isPending ? 'It is driven …' : 'Drive it'}
                </Button>
            </Box>
            {drive.error && <ProblemNote error={drive.error} />}
        </Box>
    );
}
