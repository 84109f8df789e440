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
    /** Idle actuators by their key, in words. */
    valves: Record<string, string>;
    /** Whether this installation listens to a logger of one's own. */
    listens: boolean;
}

/** Open a session on the simulated controller: what it begins with, and what is hidden in it. */
export function OpenLive({ coolant, fresh, faults, valves, listens }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [temperature, setTemperature] = useState<number | null>(coolant);
    const [fault, setFault] = useState(NONE);
    const [tables, setTables] = useState<Schemas['LiveIn']['tables']>('newest');
    const [hardware, setHardware] = useState<Hardware>(STRAIGHT);
    const open = useMutation({
        mutationFn: () => {
            const hidden = faults[Math.floor(Math.random() * faults.length)];
            const chosen = fault === HIDDEN ? (hidden ? [hidden.key] : []) : fault === NONE ? [] : [fault];
            return openLive(job.id, { coolant_c: temperature ?? coolant, faults: chosen, tables, fresh, ...fitted(hardware), seed: Math.floor(Math.random() * 1e6) });
        },
        onSuccess: () => refresh(queryClient, job.id, 'live'),
    });
    const listen = useMutation({ mutationFn: () => openLive(job.id, { source: 'lines' }), onSuccess: () => refresh(queryClient, job.id, 'live') });
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
            <Fitted hardware={hardware} valves={valves} onChange={setHardware} error={open.error} />
            {open.error && <ProblemNote error={open.error} />}
            {listens && (
                <Button variant="outlined" sx={{ display: 'block', minHeight: 44, mt: 1 }} disabled={listen.isPending} onClick={() => listen.mutate()}>
                    {listen.isPending ? 'Listening …' : 'Listen to the logger at the car'}
                </Button>
            )}
            {listen.error && <ProblemNote error={listen.error} />}
        </>
    );
}

interface Hardware {
    kind: string;
    opens_pct: number | null;
    full_pct: number | null;
    sticks_pct: number | null;
    inverted: boolean;
    stop: number | null;
}

const STRAIGHT: Hardware = { kind: '', opens_pct: null, full_pct: null, sticks_pct: null, inverted: false, stop: null };

/** Only what was typed is sent: what is left empty is as usual. */
function fitted({ kind, stop, inverted, ...numbers }: Hardware): Partial<Schemas['LiveIn']> {
    const typed = Object.fromEntries(Object.entries(numbers).filter(([, value]) => value !== null));
    const valve = { kind, inverted, ...typed } as Schemas['ValveHardware'];
    return { ...(kind ? { valve } : {}), ...(stop === null ? {} : { stop: stop / 100 }) };
}

interface FittedProps {
    hardware: Hardware;
    valves: Record<string, string>;
    onChange: (hardware: Hardware) => void;
    error: Error | null;
}

/** The idle actuator and the stop of the simulated engine, for whoever wants to find them out. */
function Fitted({ hardware, valves, onChange, error }: FittedProps) {
    const [isOpen, setOpen] = useState(false);
    const set = (change: Partial<Hardware>) => onChange({ ...hardware, ...change });
    const field = (name: 'opens_pct' | 'full_pct' | 'sticks_pct', label: string) => (
        <QuantityField label={label} unit="%" value={hardware[name]} onChange={(value) => set({ [name]: value })} error={fieldProblem([error], `valve.${name}`)} />
    );
    if (!isOpen)
        return (
            <Button size="small" sx={{ mt: 1 }} onClick={() => setOpen(true)}>
                Idle actuator and throttle stop of it
            </Button>
        );
    return (
        <Box sx={{ display: 'grid', gap: 1.5, mt: 1.5, gridTemplateColumns: { xs: '1fr', sm: 'repeat(3, minmax(0, 1fr))' }, alignItems: 'start' }}>
            <Choice label="Idle actuator" value={hardware.kind} onChange={(kind) => set({ kind })} options={{ '': 'as its tables think', ...valves }} />
            <QuantityField label="Air past the stop" unit="%" value={hardware.stop} onChange={(stop) => set({ stop })} help="of what such an engine has; usual if empty" error={fieldProblem([error], 'stop')} />
            {hardware.kind && (
                <>
                    {field('opens_pct', 'Begins to open at')}
                    {field('full_pct', 'Fully open at')}
                    {field('sticks_pct', 'Sticks by')}
                    <Choice label="More duty" value={hardware.inverted ? 'closes' : 'opens'} onChange={(value) => set({ inverted: value === 'closes' })} options={{ opens: 'opens it', closes: 'closes it' }} />
                </>
            )}
        </Box>
    );
}
