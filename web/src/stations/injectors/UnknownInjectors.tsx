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
import { useNavigate } from 'react-router';

import { client, unwrap, type Injectors, type Schemas } from '../../api/client';
import { benchQuery } from '../../api/bench';
import { logsQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { Facts } from '../../parts/Facts';
import { LogChoice } from '../../parts/LogChoice';
import { PointGrid, type Row } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';

interface Props {
    injectors: Injectors;
    onTake: (proposal: Injectors) => void;
}

type Source = 'typed' | 'log' | 'bench';

const COLUMNS = [
    { title: 'Measured', unit: 'lambda' },
    { title: 'Target', unit: 'lambda' },
    { title: 'Correction', unit: '%' },
    { title: 'Pulse', unit: 'ms' },
    { title: 'Battery', unit: 'V' },
    { title: 'Pressure', unit: 'kPa' },
    { title: 'Speed', unit: 'rpm' },
    { title: 'Manifold', unit: 'kPa' },
];

function rowOf(point: Schemas['OperatingPoint']): Row {
    return [
        point.lambda_measured,
        point.lambda_target,
        point.trim_pct,
        point.pulse_ms,
        point.battery_v,
        point.pressure_kpa ?? null,
        point.rpm ?? null,
        point.map_kpa ?? null,
    ];
}

/** The points that are complete: mixture, target, pulse and battery are needed. */
function pointsOf(rows: Row[]): Schemas['OperatingPoint'][] {
    return rows.flatMap(([measured, target, trim, pulse, battery, pressure, rpm, map]) =>
        typeof measured === 'number' && typeof target === 'number' && typeof pulse === 'number' && typeof battery === 'number'
            ? [
                  {
                      lambda_measured: measured,
                      lambda_target: target,
                      trim_pct: trim ?? 0,
                      pulse_ms: pulse,
                      battery_v: battery,
                      pressure_kpa: pressure ?? null,
                      rpm: rpm ?? null,
                      map_kpa: map ?? null,
                  },
              ]
            : [],
    );
}

/** Nobody knows these injectors: run warm and steady, and the mixture tells what they flow. */
export function UnknownInjectors({ injectors, onTake }: Props) {
    const { job } = useJob();
    const navigate = useNavigate();
    const queryClient = useQueryClient();
    const bench = useQuery(benchQuery);
    const logs = useQuery(logsQuery(job.id));
    const [source, setSource] = useState<Source>('log');
    const [logId, setLogId] = useState<number | null>(null);
    const [rows, setRows] = useState<Row[]>([]);
    const [fault, setFault] = useState('none');
    const lastEngine = logs.data?.find((log) => typeof log.about.engine === 'string')?.about.engine as string | undefined;
    const path = { params: { path: { job_id: job.id } } };
    const infer = useMutation({
        mutationFn: async () => {
            let log = source === 'log' ? logId : null;
            if (source === 'bench') {
                const run = await unwrap(
                    client.POST('/api/jobs/{job_id}/bench/held', {
                        ...path,
                        body: { engine: lastEngine ?? 'stand_in', faults: fault === 'none' ? [] : [fault], idle_only: false },
                    }),
                );
                await refresh(queryClient, job.id, 'logs');
                log = run.log_id;
            }
            return unwrap(
                client.POST('/api/jobs/{job_id}/injectors/infer', {
                    ...path,
                    body: { points: source === 'typed' ? pointsOf(rows) : [], log_id: log },
                }),
            );
        },
        onSuccess: (answer) => setRows(answer.points.map(rowOf)),
    });
    const result = infer.data?.result;
    const isReady = source === 'bench' || (source === 'log' ? logId !== null : pointsOf(rows).length > 0);
    return (
        <WithMargin margin={<InferredFacts result={result} injectors={injectors} />}>
            <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mb: 1 }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Unknown injectors
                </Typography>
                {infer.data && (
                    <Button
                        variant="contained"
                        onClick={() => {
                            if (infer.data) onTake(infer.data.proposal);
                            void navigate(`/jobs/${job.id}/injectors`);
                        }}
                    >
                        Look at these injectors
                    </Button>
                )}
            </Stack>
            <Typography sx={{ mb: 2 }}>
                Warm engine, steady for two seconds at a time, no enrichment. What the mixture and its correction say of
                the fuel is compared with what the controller believes.
            </Typography>
            {result && <Sentences sentences={result.sentences} level="attention" />}
            <PointsFrom source={source} onSource={setSource} />
            {source === 'log' && <LogChoice value={logId} onChange={setLogId} hint="A log of the warm engine with lambda, its target, pulse and battery." />}
            {source === 'bench' && <HeldBench fault={fault} kinds={bench.data?.faults ?? []} onFault={setFault} />}
            {(source === 'typed' || infer.data) && (
                <Box sx={{ mb: 2, maxWidth: 900, overflowX: 'auto', '& table': { minWidth: 660 } }}>
                    <PointGrid title={source === 'typed' ? 'Points' : 'Points found'} columns={COLUMNS} rows={rows} onChange={setRows} fixed={source !== 'typed'} />
                </Box>
            )}
            {infer.error && <ProblemNote error={infer.error} />}
            <Button variant="contained" size="large" sx={{ minHeight: 48 }} disabled={!isReady || infer.isPending} onClick={() => infer.mutate()}>
                {infer.isPending ? 'Working …' : 'Infer flow and dead time'}
            </Button>
        </WithMargin>
    );
}

/** The warm bench engine, and the fault that is hidden in it. */
function HeldBench({ fault, kinds, onFault }: { fault: string; kinds: Schemas['FaultKindOut'][]; onFault: (kind: string) => void }) {
    return (
        <Box sx={{ mb: 2, maxWidth: 460 }}>
            <Typography variant="body2" sx={{ mb: 1 }}>
                A simulation to practise on: the warm bench engine is held at six points by a brake.
            </Typography>
            <TextField select label="Hidden fault" value={fault} onChange={(event) => onFault(event.target.value)} fullWidth>
                <MenuItem value="none">none</MenuItem>
                {kinds
                    .filter(({ key }) => key === 'injector_flow' || key === 'dead_time')
                    .map((kind) => (
                        <MenuItem key={kind.key} value={kind.key}>
                            {kind.title}
                        </MenuItem>
                    ))}
            </TextField>
        </Box>
    );
}

/** Where the points come from. */
function PointsFrom({ source, onSource }: { source: Source; onSource: (source: Source) => void }) {
    return (
        <ToggleButtonGroup exclusive size="small" value={source} aria-label="Where the points come from" onChange={(_, value: Source | null) => value && onSource(value)} sx={{ mb: 2 }}>
            <ToggleButton value="log" sx={{ textTransform: 'none', px: 2 }}>
                Log
            </ToggleButton>
            <ToggleButton value="typed" sx={{ textTransform: 'none', px: 2 }}>
                Typed points
            </ToggleButton>
            <ToggleButton value="bench" sx={{ textTransform: 'none', px: 2 }}>
                Bench engine
            </ToggleButton>
        </ToggleButtonGroup>
    );
}

/** Flow and dead time against what is entered. */
function InferredFacts({ result, injectors }: { result: Schemas['InferredInjectors'] | undefined; injectors: Injectors }) {
    return (
        result ? (
            <>
                <Facts
                    title="Flow, as rated"
                    facts={[
                        { name: 'Entered', value: injectors.flow, unit: injectors.flow_unit, decimals: 0 },
                        { name: 'Inferred', value: result.flow_cm3_min, unit: 'cm³/min', decimals: 0 },
                        { name: 'From (95 %)', value: result.flow_low, unit: 'cm³/min', decimals: 0 },
                        { name: 'To (95 %)', value: result.flow_high, unit: 'cm³/min', decimals: 0 },
                    ]}
                />
                <Facts
                    title="Dead time"
                    facts={[
                        { name: 'Against the entered', value: result.dead_time_offset_ms, unit: 'ms', decimals: 2 },
                        { name: 'Standard error', value: result.dead_time_error_ms, unit: 'ms', decimals: 2 },
                    ]}
                />
            </>
        ) : (
            <Typography variant="body2">
                One point tells the flow. Points from a bare idle up to heavy load tell the dead time as well.
            </Typography>
        )
    );
}
