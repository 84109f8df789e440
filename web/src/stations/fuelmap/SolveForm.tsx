import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { logsQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { LogChoice } from '../../parts/LogChoice';
import { ProblemNote } from '../../parts/ProblemNote';
import { solvePass } from './api';
import { useTask } from './useTask';

const WORDS: Record<string, string> = {
    running: 'running',
    warm: 'warm',
    start: 'after the start',
    speed: 'speed steady',
    pressure: 'pressure steady',
    pedal: 'pedal steady',
    overrun: 'no overrun',
    acceleration: 'no acceleration',
    lambda: 'lambda usable',
    trim: 'loop known',
    even: 'no misfire',
};
/** A drive is longer than a start. [s] */
const DRIVE_S = 90;

/** Which logs, which layers: then one solve. */
export function SolveForm({ layers, onSolved }: { layers: string[]; onSolved: (number: number) => void }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const logs = useQuery(logsQuery(job.id)).data ?? [];
    const [chosen, setChosen] = useState<Set<number>>(new Set());
    const [off, setOff] = useState<Set<string>>(new Set());
    const solve = useTask<number[], { number: number }>(
        (ids) => solvePass(job.id, { log_ids: ids, filters: [...off], authority: 0.1, locked: [], revision: null }),
        async ({ number }) => {
            await refresh(queryClient, job.id, 'fuel-map');
            onSolved(number);
        },
    );
    const turn = <T,>(set: Set<T>, one: T) => new Set(set.has(one) ? [...set].filter((other) => other !== one) : [...set, one]);
    const drives = logs.filter(({ id, duration_s }) => duration_s >= DRIVE_S || chosen.has(id));
    return (
        <Box component="section" aria-label="Logs of a pass" sx={{ mb: 2 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                Which drives
            </Typography>
            {drives.map((log) => (
                <FormControlLabel key={log.id} sx={{ display: 'flex' }} control={<Checkbox checked={chosen.has(log.id)} onChange={() => setChosen(turn(chosen, log.id))} />} label={`${log.name}, ${Math.round(log.duration_s / 60)} min`} />
            ))}
            <Button component={Link} to={`/jobs/${job.id}/logbook`} size="small">
                The logbook: what each log holds
            </Button>
            <LogChoice value={null} onChange={(id) => setChosen(turn(chosen, id))} hint="Another log, or a file:" />
            <Typography variant="h3" component="h3">
                What counts of them
            </Typography>
            <Box sx={{ display: 'flex', flexWrap: 'wrap', mb: 1 }}>
                {layers.map((key) => (
                    <FormControlLabel key={key} control={<Checkbox size="small" checked={!off.has(key)} onChange={() => setOff(turn(off, key))} />} label={WORDS[key] ?? key} />
                ))}
            </Box>
            <Box sx={{ display: 'flex', gap: 2, alignItems: 'center' }}>
                <Button variant="contained" sx={{ minHeight: 48 }} disabled={!chosen.size || solve.isPending} onClick={() => solve.begin([...chosen])}>
                    Solve the map
                </Button>
                {solve.isPending && (
                    <>
                        <Box sx={{ flex: 1, maxWidth: 320 }}>
                            <Typography variant="body2">{solve.progress?.sentence || 'It begins'} …</Typography>
                            <LinearProgress variant="determinate" value={100 * (solve.progress?.share ?? 0)} aria-label="Solving the map" />
                        </Box>
                        <Button onClick={solve.cancel}>Cancel</Button>
                    </>
                )}
                {solve.isCancelled && <Typography variant="body2">Cancelled; nothing was written.</Typography>}
            </Box>
            {solve.error && <ProblemNote error={solve.error} />}
        </Box>
    );
}
