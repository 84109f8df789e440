import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { Choice } from '../../parts/Choice';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { useJob } from '../../parts/jobContext';
import { LogChoice } from '../../parts/LogChoice';
import { PointGrid, type Row } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { driveBenchPull, keepFile, keepFromLog, keepTyped, pullsInLog } from './api';

type Conditions = Schemas['Conditions'];
const WAYS = { log: 'out of a log', file: "a dynamometer's file", typed: 'typed by points', bench: 'of the simulated engine' };
const NONE = 'none';

/** A pull is added: its conditions once, then out of a log, a file, fingers, or the simulated engine. */
export function AddPull({ pulls, duty }: { pulls: Schemas['PullsOut']; duty?: number | null }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [way, setWay] = useState<string>('log');
    const [words, setWords] = useState({ gear: '', fuel: '', part: '', water: '', note: '', profile: '' });
    const [air, setAir] = useState<{ temperature_c: number | null; pressure_kpa: number | null }>({ temperature_c: null, pressure_kpa: null });
    const [typedDuty, setDuty] = useState<number | null>(null);
    const held = duty ?? typedDuty;
    const conditions: Conditions = {
        ...words,
        duty_pct: held,
        ambient: air.temperature_c === null || air.pressure_kpa === null ? null : { temperature_c: air.temperature_c, pressure_kpa: air.pressure_kpa, humidity_pct: 50 },
    };
    const keep = useMutation({ mutationFn: (how: (conditions: Conditions) => Promise<unknown>) => how(conditions), onSuccess: () => refresh(queryClient, job.id, 'pulls', 'logs') });
    const text = (name: keyof typeof words, label: string) => <TextField label={label} value={words[name]} onChange={(event) => setWords({ ...words, [name]: event.target.value })} />;
    const isClosed = pulls.closed_by !== null || !pulls.limits || pulls.open_checks.length > 0;
    return (
        <Box component="section" aria-label="Add a pull" sx={{ borderTop: 1, borderColor: 'divider', pt: 1.5, mb: 2 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Add a pull
            </Typography>
            {isClosed && <Typography sx={{ mb: 1 }}>Closed: {pulls.closed_by !== null ? 'a pull says stop.' : 'limits and checks come first.'}</Typography>}
            <Group title="Driven with">
                {text('gear', 'Gear')}
                {text('fuel', 'Fuel')}
                {text('part', 'Part or setting tried')}
                {text('water', 'Water injection')}
                {text('profile', 'Cam profile alone')}
                <QuantityField label="Air drawn" unit="°C" value={air.temperature_c} onChange={(value) => setAir({ ...air, temperature_c: value })} error={fieldProblem([keep.error], 'ambient.temperature_c')} />
                <QuantityField label="Air pressure" unit="kPa" value={air.pressure_kpa} onChange={(value) => setAir({ ...air, pressure_kpa: value })} error={fieldProblem([keep.error], 'ambient.pressure_kpa')} />
                {pulls.is_boosted && duty === undefined && <QuantityField label="Boost valve held at" unit="%" value={typedDuty} onChange={setDuty} help="empty: not of the staircase" error={fieldProblem([keep.error], 'duty_pct')} />}
            </Group>
            <Choice label="The pull comes" value={way} onChange={setWay} options={WAYS} width={260} />
            <Box sx={{ mt: 1.5 }}>
                {way === 'log' && <FromLog disabled={isClosed || keep.isPending} error={keep.error} onKeep={(id, stretch, vehicle) => keep.mutate((c) => keepFromLog(job.id, id, stretch, c, vehicle))} />}
                {way === 'file' && <FromFile standards={pulls.standards} disabled={isClosed || keep.isPending} onKeep={(file, standard) => keep.mutate((c) => keepFile(job.id, file, standard, c))} />}
                {way === 'typed' && <Typed disabled={isClosed || keep.isPending} onKeep={(points) => keep.mutate((c) => keepTyped(job.id, points, c))} />}
                {way === 'bench' && <Bench faults={pulls.faults} disabled={isClosed || keep.isPending} onKeep={(faults, change) => keep.mutate((c) => driveBenchPull(job.id, { conditions: c, faults, change_pct: change, seed: Math.floor(Math.random() * 1e6) }))} />}
            </Box>
            {keep.error && <ProblemNote error={keep.error} />}
        </Box>
    );
}

interface FromLogProps {
    disabled: boolean;
    error: Error | null;
    onKeep: (logId: number, stretch: Schemas['PullStretch'], vehicle: Schemas['Vehicle'] | null) => void;
}

function FromLog({ disabled, error, onKeep }: FromLogProps) {
    const { job } = useJob();
    const [car, setCar] = useState<Record<keyof Schemas['Vehicle'], number | null>>({ mass_kg: null, ratio: null, tyre_m: null });
    const { mass_kg, ratio, tyre_m } = car;
    const vehicle = mass_kg === null || ratio === null || tyre_m === null ? null : { mass_kg, ratio, tyre_m };
    const ofCar = (name: keyof typeof car, label: string, unit: string) => <QuantityField label={label} unit={unit} value={car[name]} onChange={(value) => setCar({ ...car, [name]: value })} error={fieldProblem([error], `vehicle.${name}`)} />;
    const [logId, setLogId] = useState<number | null>(null);
    const found = useQuery({ ...pullsInLog(job.id, logId ?? 0), enabled: logId !== null });
    return (
        <>
            <LogChoice value={logId} onChange={setLogId} hint="A log with pulls in it:" />
            <Group title="Car: with all three, torque is approximate; without, relative">
                {ofCar('mass_kg', 'Mass with driver', 'kg')}
                {ofCar('ratio', 'Engine turns per wheel turn', '')}
                {ofCar('tyre_m', 'Rolling radius', 'm')}
            </Group>
            {found.data?.length === 0 && <Typography>No pull in it: pedal wide open through 1000 rpm and more.</Typography>}
            {logId !== null &&
                found.data?.map((stretch) => (
                    <Button key={stretch.begin_s} variant="outlined" sx={{ mr: 1, mb: 1 }} disabled={disabled} onClick={() => onKeep(logId, stretch, vehicle)}>
                        Keep {Math.round(stretch.from_rpm)} to {Math.round(stretch.to_rpm)} rpm at {Math.round(stretch.begin_s)} s
                    </Button>
                ))}
            {found.error && <ProblemNote error={found.error} />}
        </>
    );
}

function FromFile({ standards, disabled, onKeep }: { standards: Record<string, string>; disabled: boolean; onKeep: (file: File, standard: string) => void }) {
    const [standard, setStandard] = useState(NONE);
    return (
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', flexWrap: 'wrap' }}>
            <Choice label="Correction that is in it" value={standard} onChange={setStandard} options={standards} width={220} help="undone with the air above" />
            <Button variant="outlined" component="label" disabled={disabled} sx={{ minHeight: 44 }}>
                Bring the file
                <input
                    type="file"
                    hidden
                    aria-label="Dynamometer file"
                    onChange={(event) => {
                        const file = event.target.files?.[0];
                        if (file) onKeep(file, standard);
                        event.target.value = '';
                    }}
                />
            </Button>
        </Box>
    );
}

function Typed({ disabled, onKeep }: { disabled: boolean; onKeep: (points: [number, number][]) => void }) {
    const [rows, setRows] = useState<Row[]>([]);
    const points = rows.flatMap(([rpm, torque]): [number, number][] => (rpm == null || torque == null ? [] : [[rpm, torque]]));
    return (
        <Box sx={{ maxWidth: 440 }}>
            <PointGrid title="Points" columns={[{ title: 'Speed', unit: 'rpm' }, { title: 'Torque', unit: '' }]} rows={rows} onChange={setRows} />
            <Typography variant="caption">Torque in N·m.</Typography>
            <Button variant="outlined" sx={{ display: 'block', mt: 1 }} disabled={disabled || !points.length} onClick={() => onKeep(points)}>
                Keep this pull
            </Button>
        </Box>
    );
}

function Bench({ faults, disabled, onKeep }: { faults: Record<string, string>; disabled: boolean; onKeep: (faults: string[], change: number) => void }) {
    const [fault, setFault] = useState(NONE);
    const [change, setChange] = useState<number | null>(0);
    return (
        <>
            <Typography variant="body2" sx={{ mb: 1 }}>
                A simulated engine like this job&apos;s on a simulated brake. It is a simulation and stands for no real engine.
            </Typography>
            <Box sx={{ display: 'flex', gap: 1.5, flexWrap: 'wrap', alignItems: 'flex-start' }}>
                <Choice label="Hidden in it" value={fault} onChange={setFault} options={{ [NONE]: 'nothing', ...faults }} width={240} />
                <Box sx={{ width: 190 }}>
                    <QuantityField label="A part makes more" unit="%" value={change} onChange={setChange} />
                </Box>
                <Button variant="outlined" sx={{ minHeight: 44 }} disabled={disabled} onClick={() => onKeep(fault === NONE ? [] : [fault], change ?? 0)}>
                    Pull it
                </Button>
            </Box>
        </>
    );
}
