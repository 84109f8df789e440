import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { ApiProblem, client, unwrap, type Schemas } from '../../api/client';
import { benchQuery } from '../../api/bench';
import { logsQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { fromShown, parseNumber, shownUnit } from '../../units/units';
import { Loading } from '../../parts/Loading';
import { NumberField } from '../../parts/NumberField';
import { ProblemNote } from '../../parts/ProblemNote';
import { BenchPlay } from './BenchPlay';
import { useJudge } from './useJudge';

const NO_FAULT = 'none';

/** Crank the simulated engine with the job's tables, watch it, have it judged. */
export function BenchForm() {
    const { job } = useJob();
    const bench = useQuery(benchQuery);
    const logs = useQuery(logsQuery(job.id));
    const judge = useJudge();
    const queryClient = useQueryClient();
    const [coolant, setCoolant] = useState('');
    const [chosenEngine, setEngine] = useState<string | null>(null);
    const [fault, setFault] = useState(NO_FAULT);
    const degrees = shownUnit('°C', job.units);
    // The engine this job was cranked on last; a job sticks to one engine.
    const lastEngine = logs.data?.find((log) => typeof log.about.engine === 'string')?.about.engine;
    const engine = chosenEngine ?? (typeof lastEngine === 'string' ? lastEngine : 'stand_in');
    const crank = useMutation({
        mutationFn: (coolantC: number) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/bench/starts', {
                    params: { path: { job_id: job.id } },
                    body: {
                        coolant_c: coolantC,
                        engine,
                        faults: fault === NO_FAULT ? [] : [fault],
                        rate_hz: 25,
                        crank_limit_s: 8,
                        run_s: 45,
                        pedal_pct: 0,
                    },
                }),
            ),
        onSuccess: () => refresh(queryClient, job.id, 'logs'),
    });
    if (bench.isPending || logs.isPending) return <Loading what="Opening the bench" />;
    if (bench.isError) return <ProblemNote error={bench.error} />;
    const typed = parseNumber(coolant);
    const log = crank.data;
    const problem = (name: string) => (crank.error instanceof ApiProblem ? crank.error.field(name) : undefined);
    return (
        <Stack spacing={2}>
            <Typography>
                The bench engine is a simulation, a stand-in to practise on. It reads this job&rsquo;s newest tables
                (revision {job.revision}) as a controller would.
            </Typography>
            <Box
                component="form"
                onSubmit={(event: React.FormEvent) => {
                    event.preventDefault();
                    if (typed !== null) crank.mutate(fromShown(typed, '°C', job.units));
                }}
                sx={{ display: 'grid', gap: 1.5, gridTemplateColumns: { xs: '1fr', sm: '160px 1fr 1fr auto' }, alignItems: 'start' }}
            >
                <NumberField
                    label="Engine is at"
                    unit={degrees}
                    value={coolant}
                    onChange={setCoolant}
                    error={problem('coolant_c')}
                    required
                />
                <EngineChoice engine={engine} engines={bench.data.engines} onEngine={setEngine} />
                <FaultChoice fault={fault} faults={bench.data.faults} onFault={setFault} />
                <Button
                    type="submit"
                    variant="contained"
                    size="large"
                    disabled={typed === null || crank.isPending}
                    sx={{ minHeight: 44, px: 4 }}
                >
                    Crank
                </Button>
            </Box>
            {crank.error && <ProblemNote error={crank.error} />}
            {log && (
                <BenchPlay
                    key={log.id}
                    log={log}
                    judging={judge.isPending}
                    onJudge={() =>
                        judge.mutate({ log_id: log.id, revision: log.about.revision as number })
                    }
                />
            )}
            {judge.error && <ProblemNote error={judge.error} />}
        </Stack>
    );
}

/** Which bench engine is cranked. */
function EngineChoice({ engine, engines, onEngine }: { engine: string; engines: { key: string; title: string }[]; onEngine: (engine: string) => void }) {
    return (
        <TextField select label="Engine" value={engine} onChange={(event) => onEngine(event.target.value)}>
            {engines.map((entry) => (
                <MenuItem key={entry.key} value={entry.key}>
                    {entry.title}
                </MenuItem>
            ))}
        </TextField>
    );
}

/** The fault that is hidden in the engine. */
function FaultChoice({ fault, faults, onFault }: { fault: string; faults: Schemas['FaultKindOut'][]; onFault: (fault: string) => void }) {
    return (
        <TextField select label="Hidden fault" value={fault} onChange={(event) => onFault(event.target.value)}>
            <MenuItem value={NO_FAULT}>none</MenuItem>
            {faults.map((entry) => (
                <MenuItem key={entry.key} value={entry.key}>
                    {entry.title}
                </MenuItem>
            ))}
        </TextField>
    );
}
