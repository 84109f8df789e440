import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { Caution } from '../../parts/Caution';
import { Choice } from '../../parts/Choice';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { useJob } from '../../parts/jobContext';
import { LivePanel, LiveStretch } from '../../parts/live';
import { LogChoice } from '../../parts/LogChoice';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { CarryAir } from './CarryAir';
import { levelOf } from './levelOf';
import { RUNNING_CAUTION } from './StopSheet';

type Numbers = Record<string, number | null>;

/** Where the idle air comes from, and what loads do. */
export function AirSheet({ idle }: { idle: Schemas['IdleOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const path = { params: { path: { job_id: job.id } } };
    const [air, setAir] = useState<Numbers>({});
    const typed = Object.fromEntries(Object.entries(air).filter(([, value]) => value !== null));
    const judge = useMutation({
        mutationFn: () => unwrap(client.POST('/api/jobs/{job_id}/idle/air', { ...path, body: typed })),
        onSuccess: () => refresh(queryClient, job.id, 'idle'),
    });
    const field = (name: string, label: string, unit: string, help?: string) => (
        <QuantityField label={label} unit={unit} value={air[name]} onChange={(value) => setAir((old) => ({ ...old, [name]: value }))} error={fieldProblem([judge.error], name)} {...(help ? { help } : {})} />
    );
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Air and loads
            </Typography>
            {idle.air && <Sentences sentences={idle.air.sentences} level={levelOf(idle, 'air')} />}
            <Group title="Warm idle">
                {field('rpm', 'Speed', 'rpm')}
                {field('map_kpa', 'Manifold pressure', 'kPa')}
                {field('intake_c', 'Intake air', '°C')}
                {field('coolant_c', 'Coolant', '°C')}
                {field('meter_gps', 'Air meter', 'g/s', 'where one is fitted')}
                {field('valve_gps', 'Through the valve', 'g/s', 'if it is known')}
                {field('stop_gps', 'Past the stop', 'g/s', 'if it is known')}
            </Group>
            {judge.error && <ProblemNote error={judge.error} />}
            <Button variant="contained" sx={{ mb: 3 }} disabled={air.rpm == null || air.map_kpa == null || judge.isPending} onClick={() => judge.mutate()}>
                Where does the air come from?
            </Button>
            <LoadForm idle={idle} />
            <CarryAir />
            <Caution>{RUNNING_CAUTION}</Caution>
        </>
    );
}

/** A load switched on: how deep, and how soon back. */
function LoadForm({ idle }: { idle: Schemas['IdleOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [load, setLoad] = useState<Schemas['LoadIn']['load']>('gear');
    const [before, setBefore] = useState<number | null>(null);
    const [lowest, setLowest] = useState<number | null>(null);
    const [back, setBack] = useState<number | null>(null);
    const [logId, setLogId] = useState<number | null>(null);
    const judge = useMutation({
        mutationFn: (log: number | null) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/idle/loads', {
                    params: { path: { job_id: job.id } },
                    body: log === null ? { load, idle_rpm: before, lowest_rpm: lowest, recovers_s: back } : { load, log_id: log },
                }),
            ),
        onSuccess: () => refresh(queryClient, job.id, 'idle'),
    });
    const choose = (id: number) => (setLogId(id), judge.mutate(id));
    return (
        <Box sx={{ mb: 3 }}>
            <Group title="Switch a load on">
                <Choice label="Load" value={load} onChange={(value) => setLoad(value as typeof load)} options={Object.fromEntries(idle.kinds_of_load.map(({ key, title }) => [key, title]))} />
                <QuantityField label="Speed before" unit="rpm" value={before} onChange={setBefore} error={fieldProblem([judge.error], 'idle_rpm')} />
                <QuantityField label="Lowest" unit="rpm" value={lowest} onChange={setLowest} help="0 if it stalls" />
                <QuantityField label="Back after" unit="s" value={back} onChange={setBack} help="empty if it does not come back" />
            </Group>
            {judge.error && <ProblemNote error={judge.error} />}
            <Button variant="outlined" disabled={before === null || lowest === null || judge.isPending} onClick={() => judge.mutate(null)}>
                Write this load down
            </Button>
            <Box sx={{ mt: 2 }}>
                <LogChoice value={logId} onChange={choose} hint="Or a log of it: three seconds of idle, the load, eight seconds more." />
                <LiveStretch begin="Over the link: idle three seconds, then switch it on" end="Judge this load" onLog={choose} />
                <LivePanel coolant={85} isShort />
            </Box>
            {idle.loads.map((entry) => (
                <Box key={entry.load} sx={{ mt: 1.5 }}>
                    <Sentences sentences={[entry.sentence]} level={entry.verdict} />
                </Box>
            ))}
        </Box>
    );
}
