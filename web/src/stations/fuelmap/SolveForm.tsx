import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import type { Schemas } from '../../api/client';
import { logsQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { fieldProblem } from '../../parts/fieldProblem';
import { LogChoice } from '../../parts/LogChoice';
import { NumberField } from '../../parts/NumberField';
import { ProblemNote } from '../../parts/ProblemNote';
import { Choice } from '../../parts/Choice';
import { solvePass } from '../../api/fuelMap';
import { logLabel } from './logLabel';
import { TaskProgress } from '../../parts/TaskProgress';
import { useTask } from '../../parts/useTask';
import { parseNumber } from '../../units/units';

interface Props {
    maps: Schemas['FuelMapsOut'];
    locked: ReadonlySet<string>;
    onSolved: (number: number) => void;
}

/** Which table, which logs, which layers: then one solve. */
export function SolveForm({ maps: { layers, tables, has_trims }, locked, onSolved }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const logs = useQuery(logsQuery(job.id)).data ?? [];
    const [chosen, setChosen] = useState<Set<number>>(new Set());
    const [off, setOff] = useState<Set<string>>(new Set());
    const [table, setTable] = useState<Schemas['FuelMapIn']['table']>('ve');
    const [learned, setLearned] = useState(false);
    const [most, setMost] = useState('10');
    const solve = useTask<number[], { number: number }>(
        (ids) => solvePass(job.id, { log_ids: ids, filters: [...off], table, learned, authority: (parseNumber(most) ?? 0) / 100, locked: cellsOf(locked, table ?? 've') }),
        async ({ number }) => {
            await refresh(queryClient, job.id, 'fuel-map');
            onSolved(number);
        },
    );
    const turn = <T,>(set: Set<T>, one: T) => new Set(set.has(one) ? [...set].filter((other) => other !== one) : [...set, one]);
    const drives = logs.filter(({ id, holds, set_aside }) => set_aside === null && (!holds || holds.warm_s || chosen.has(id)));
    return (
        <Box component="section" aria-label="Logs of a pass" sx={{ mb: 2 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Which drives
            </Typography>
            {drives.map((log) => (
                <FormControlLabel key={log.id} sx={{ display: 'flex' }} control={<Checkbox checked={chosen.has(log.id)} onChange={() => setChosen(turn(chosen, log.id))} />} label={logLabel(log)} />
            ))}
            <Button component={Link} to={`/jobs/${job.id}/logbook`} size="small">
                The logbook: what each log holds
            </Button>
            <LogChoice value={null} onChange={(id) => setChosen(turn(chosen, id))} hint="Another log, or a file:" />
            <Typography variant="h3" component="h3">
                What counts of them
            </Typography>
            <Box sx={{ display: 'flex', flexWrap: 'wrap', mb: 1 }}>
                {Object.entries(layers).map(([key, title]) => (
                    <FormControlLabel key={key} control={<Checkbox size="small" checked={!off.has(key)} onChange={() => setOff(turn(off, key))} />} label={title} />
                ))}
            </Box>
            {has_trims && <FormControlLabel sx={{ display: 'flex' }} control={<Checkbox checked={learned} onChange={() => setLearned(!learned)} />} label="Read what the controller has learned beside them" />}
            <Box sx={{ display: 'flex', gap: 2, alignItems: 'center' }}>
                {Object.keys(tables).length > 1 && <Choice label="Into" value={table ?? 've'} onChange={(key) => setTable(key as typeof table)} options={tables} width={260} />}
                <Box sx={{ width: 170 }}>
                    <NumberField label="Most of one pass" unit="%" value={most} onChange={setMost} error={fieldProblem([solve.error], 'authority')} />
                </Box>
                <Button variant="contained" sx={{ minHeight: 48 }} disabled={(!chosen.size && !learned) || solve.isPending} onClick={() => solve.begin([...chosen])}>
                    Solve the map
                </Button>
                <TaskProgress task={solve} label="Solving the map" />
            </Box>
            {solve.error && <ProblemNote error={solve.error} />}
        </Box>
    );
}

/** Rows and columns that stay, of one table. */
function cellsOf(locked: ReadonlySet<string>, table: string): [number, number][] {
    return [...locked].flatMap((place): [number, number][] => {
        const [of, row, column] = place.split(' ');
        return of === table ? [[Number(row), Number(column)]] : [];
    });
}
