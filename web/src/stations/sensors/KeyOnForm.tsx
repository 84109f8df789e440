import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Hardware, type Schemas, type SensorRow } from '../../api/client';
import { benchQuery } from '../../api/bench';
import { logsQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { LogChoice } from '../../parts/LogChoice';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';

interface Props {
    hardware: Hardware;
    sensors: SensorRow[];
    known: Schemas['Circumstances'];
    last: Schemas['KeyOnCheckOut'] | undefined;
}

type Source = 'typed' | 'log' | 'bench';
type Around = Schemas['CircumstancesIn'];
interface Hidden {
    kind: string;
    size: number | null;
}
type Typed = Record<string, Schemas['KeyOnReading']>;

const NOTES: Record<string, { label: string; help?: string }> = {
    throttle: { label: 'Throttle, foot off' },
    fuel_pressure: { label: 'Fuel pressure at prime' },
    wideband: { label: 'Wideband in free air' },
};

/** Weather and soak, then the readings: typed, from a log, or of the simulated controller. */
export function KeyOnForm({ hardware, sensors, known, last }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const bench = useQuery(benchQuery);
    const logs = useQuery(logsQuery(job.id));
    const [source, setSource] = useState<Source>('typed');
    const [around, setAround] = useState<Around>(() => {
        // Half an hour later the weather is still the same.
        const { altitude_m, ethanol_pct, ...before } = { ...known, ...(last?.circumstances as Partial<typeof known>) };
        return {
            altitude_m,
            ethanol_pct,
            ambient_c: before.ambient_c ?? null,
            soak_h: before.soak_h ?? null,
            barometric_kpa: before.barometric_kpa ?? null,
            meter_v: before.meter_v ?? null,
        };
    });
    const [typed, setTyped] = useState<Typed>({});
    const [logId, setLogId] = useState<number | null>(null);
    const [chosenFault, setFault] = useState<string | null>(null);
    // A simulated controller keeps its hidden fault until another is chosen.
    const lastRun = logs.data?.find((log) => log.about.run === 'key_on')?.about.faults as Hidden[] | undefined;
    const fault = chosenFault ?? lastRun?.[0]?.kind ?? 'none';
    const functions = hardware.functions.filter(
        ({ key, needed }) => needed === 'always' || sensors.some((row) => row.function === key),
    );
    const check = useMutation({
        mutationFn: async () => {
            let log = source === 'log' ? logId : null;
            if (source === 'bench') {
                const same = chosenFault === null || chosenFault === lastRun?.[0]?.kind;
                const size = same ? (lastRun?.[0]?.size ?? null) : null;
                const run = await unwrap(
                    client.POST('/api/jobs/{job_id}/bench/key-on', {
                        params: { path: { job_id: job.id } },
                        body: { circumstances: around, faults: fault === 'none' ? [] : [{ kind: fault, size }] },
                    }),
                );
                log = run.log_id;
            }
            return unwrap(
                client.POST('/api/jobs/{job_id}/key-on', {
                    params: { path: { job_id: job.id } },
                    body: { readings: source === 'typed' ? typed : {}, log_id: log, circumstances: around },
                }),
            );
        },
        onSuccess: () => {
            window.scrollTo({ top: 0 });
            return refresh(queryClient, job.id, 'sensors', 'logs');
        },
    });
    const problem = (name: string) => fieldProblem([check.error], name);
    const setCircumstance = (name: keyof Around) => (value: number | null) => setAround((old) => ({ ...old, [name]: value }));
    const setReading = (key: string, part: 'value' | 'opened') => (value: number | null) =>
        setTyped((old) => {
            const before = old[key] ?? { value: null, opened: null };
            return { ...old, [key]: { ...before, [part]: value } };
        });
    const isReady = source === 'bench' || (source === 'log' ? logId !== null : Object.values(typed).some((entry) => entry.value !== null));
    return (
        <Box component="section" aria-label="New check">
            <Typography variant="h2" sx={{ mb: 1 }}>
                {last ? 'Check again' : 'Check now'}
            </Typography>
            <AroundTheEngine around={around} setCircumstance={setCircumstance} problem={problem} />
            <ReadingsFrom source={source} onSource={setSource} />
            {source === 'typed' && <TypedReadings functions={functions} typed={typed} setReading={setReading} problem={problem} />}
            {source === 'log' && (
                <LogChoice
                    value={logId}
                    onChange={setLogId}
                    hint="Key on, pedal to the floor once, engine never cranked. The part before it turns is read."
                />
            )}
            {source === 'bench' && <BenchFault fault={fault} lastRun={lastRun} kinds={bench.data?.sensor_faults ?? []} onFault={setFault} />}
            {check.error && <ProblemNote error={check.error} />}
            <Button
                variant="contained"
                size="large"
                sx={{ mt: 1, minHeight: 48 }}
                disabled={!isReady || check.isPending}
                onClick={() => check.mutate()}
            >
                {check.isPending ? 'Checking …' : 'Check every sensor'}
            </Button>
        </Box>
    );
}

interface BenchFaultProps {
    fault: string;
    lastRun: Hidden[] | undefined;
    kinds: Schemas['FaultKindOut'][];
    onFault: (kind: string) => void;
}

/** The simulated controller, and the fault that is hidden in it. */
function BenchFault({ fault, lastRun, kinds, onFault }: BenchFaultProps) {
    return (
        <Stack spacing={1} sx={{ mb: 2, maxWidth: 560 }}>
            <Typography variant="body2">
                A simulation to practise on: it has the sensors you entered. What lies between them and the
                controller may be otherwise.
            </Typography>
            <TextField select label="Hidden fault" value={fault} onChange={(event) => onFault(event.target.value)}>
                <MenuItem value="none">none</MenuItem>
                {kinds.map((kind) => (
                    <MenuItem key={kind.key} value={kind.key}>
                        {kind.title.replace('…', `${lastRun?.[0]?.kind === kind.key && lastRun[0].size !== null ? lastRun[0].size : kind.default} ${kind.unit}`)}
                    </MenuItem>
                ))}
            </TextField>
        </Stack>
    );
}

interface TypedReadingsProps {
    functions: Schemas['SensorFunction'][];
    typed: Typed;
    setReading: (key: string, part: 'value' | 'opened') => (value: number | null) => void;
    problem: (name: string) => string | undefined;
}

/** What the controller shows, typed. */
function TypedReadings({ functions, typed, setReading, problem }: TypedReadingsProps) {
    return (
        <Group title="The controller shows, key on and engine at rest">
            {functions.map(({ key, title, unit }) => (
                <QuantityField
                    key={key}
                    label={NOTES[key]?.label ?? title}
                    unit={unit}
                    value={typed[key]?.value}
                    onChange={setReading(key, 'value')}
                    error={problem(`readings.${key}`)}
                />
            ))}
            {functions.some(({ key }) => key === 'throttle') && <QuantityField label="Throttle, wide open" unit="%" value={typed.throttle?.opened} onChange={setReading('throttle', 'opened')} />}
        </Group>
    );
}

/** Where the readings come from. */
function ReadingsFrom({ source, onSource }: { source: Source; onSource: (source: Source) => void }) {
    return (
        <ToggleButtonGroup
            exclusive
            size="small"
            value={source}
            aria-label="Where the readings come from"
            onChange={(_, value: Source | null) => value && onSource(value)}
            sx={{ mb: 2 }}
        >
            <ToggleButton value="typed" sx={{ textTransform: 'none', px: 2 }}>
                Typed readings
            </ToggleButton>
            <ToggleButton value="log" sx={{ textTransform: 'none', px: 2 }}>
                Key-on log
            </ToggleButton>
            <ToggleButton value="bench" sx={{ textTransform: 'none', px: 2 }}>
                Simulated controller
            </ToggleButton>
        </ToggleButtonGroup>
    );
}

interface AroundTheEngineProps {
    around: Around;
    setCircumstance: (name: keyof Around) => (value: number | null) => void;
    problem: (name: string) => string | undefined;
}

/** Weather, soak and the meter on the battery. */
function AroundTheEngine({ around, setCircumstance, problem }: AroundTheEngineProps) {
    return (
        <Group title="Around the engine" columns="repeat(5, minmax(0, 1fr))">
            <QuantityField label="Ambient" unit="°C" value={around.ambient_c} onChange={setCircumstance('ambient_c')} error={problem('ambient_c')} />
            <QuantityField label="It stood for" unit="h" value={around.soak_h} onChange={setCircumstance('soak_h')} error={problem('soak_h')} />
            <QuantityField label="Barometer" unit="kPa" value={around.barometric_kpa} onChange={setCircumstance('barometric_kpa')} error={problem('barometric_kpa')} help="as measured here, or leave it" />
            <QuantityField label="… or altitude" unit="m" value={around.altitude_m} onChange={setCircumstance('altitude_m')} error={problem('altitude_m')} />
            <QuantityField label="Battery on a meter" unit="V" value={around.meter_v} onChange={setCircumstance('meter_v')} error={problem('meter_v')} />
        </Group>
    );
}
