import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';

import { client, unwrap, type Log } from '../../api/client';
import { logsQuery } from '../../api/logbook';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { moment } from '../../parts/when';
import { formatNumber } from '../../units/units';
import { Beside } from './Beside';
import { SetAside } from './SetAside';
import { TrackToLog } from './TrackToLog';

const CELL = { borderBottom: 1, borderColor: 'divider', px: 1, py: 1, textAlign: 'left', verticalAlign: 'top' } as const;

/** Every log of the job: what it holds, and where it may go. */
export function LogbookPage() {
    const { job } = useJob();
    const logs = useQuery(logsQuery(job.id));
    const [wanted, setWanted] = useState('');
    if (!logs.data) return logs.error ? <ProblemNote error={logs.error} /> : <Loading what="Opening the logbook" />;
    const found = logs.data.filter(({ name }) => name.toLowerCase().includes(wanted.trim().toLowerCase()));
    return (
        <Box sx={{ p: { xs: 1.5, md: 2 }, maxWidth: 1180 }}>
            <Typography variant="h1" sx={{ mb: 1.5 }}>
                Logbook
            </Typography>
            <TextField label="Find by name" value={wanted} onChange={(event) => setWanted(event.target.value)} sx={{ mb: 1.5, width: 320, maxWidth: '100%' }} />
            {!found.length && <Typography>{logs.data.length ? 'No log has that in its name.' : 'No log yet: bring one with a start, drive, or open the live link.'}</Typography>}
            {found.length > 0 && (
                <Box sx={{ overflowX: 'auto' }}>
                    <Box component="table" sx={{ width: '100%', borderCollapse: 'collapse' }}>
                        <thead>
                            <tr>
                                {['Log', 'Holds', 'To do with it'].map((head) => (
                                    <Box component="th" key={head} scope="col" sx={CELL}>
                                        {head}
                                    </Box>
                                ))}
                            </tr>
                        </thead>
                        <tbody>
                            {found.map((log) => (
                                <LogRow key={log.id} log={log} />
                            ))}
                        </tbody>
                    </Box>
                </Box>
            )}
            <Beside logs={logs.data} />
        </Box>
    );
}

/** One log, its starts on their way to trials, its drives to the fuel map. */
function LogRow({ log }: { log: Log }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const navigate = useNavigate();
    const starts = log.holds?.starts ?? 0;
    const judge = useMutation({
        mutationFn: async () => {
            const seen = await unwrap(client.GET('/api/jobs/{job_id}/logs/{log_id}/starts', { params: { path: { job_id: job.id, log_id: log.id } } }));
            return unwrap(
                client.POST('/api/jobs/{job_id}/trials/of-log', {
                    params: { path: { job_id: job.id } },
                    body: { log_id: log.id, start_numbers: seen.map(({ number }) => number), note: '', attempt: 1, black_smoke: false, fuel_smell: false },
                }),
            );
        },
        onSuccess: async (trials) => {
            await refresh(queryClient, job.id, 'trials');
            const last = trials.at(-1);
            if (last) await navigate(`/jobs/${job.id}/trials/${last.id}`);
        },
    });
    return (
        <tr>
            <Box component="td" sx={CELL}>
                <b>{log.name}</b>
                <Typography variant="caption" component="div">
                    {moment(log.created_at)}, {formatNumber(log.duration_s / 60, 1)} min at {formatNumber(log.rate_hz, 0)} Hz{log.origin === 'bench' ? ', simulated' : ''}
                </Typography>
                {log.problems.map((problem) => (
                    <Typography key={problem} variant="caption" component="div">
                        {problem}
                    </Typography>
                ))}
            </Box>
            <Box component="td" sx={CELL}>
                {log.holds ? holdsSaid(log.holds) : 'not looked at by this version'}
                {log.set_aside !== null && (
                    <Typography variant="body2" sx={{ fontWeight: 650 }}>
                        Set aside: {log.set_aside}
                    </Typography>
                )}
            </Box>
            <Box component="td" sx={CELL}>
                {starts > 0 && (
                    <Button disabled={judge.isPending} onClick={() => judge.mutate()}>
                        {starts === 1 ? 'Judge its start' : 'Judge its starts'}
                    </Button>
                )}
                {(log.holds?.warm_s ?? 0) > 0 && (
                    <Button component={Link} to={`/jobs/${job.id}/fuel-map`}>
                        To the fuel map
                    </Button>
                )}
                {(log.holds?.pulls ?? 0) > 0 && (
                    <Button component={Link} to={`/jobs/${job.id}/pulls/board`}>
                        To the pulls
                    </Button>
                )}
                {(['csv', 'mdf'] as const).map((format) => (
                    <Button key={format} component="a" href={`/api/jobs/${job.id}/logs/${log.id}/export?format=${format}`} download aria-label={`Save ${log.name} as ${format.toUpperCase()}`}>
                        as {format.toUpperCase()}
                    </Button>
                ))}
                <TrackToLog log={log} />
                {judge.error && <ProblemNote error={judge.error} />}
                <SetAside log={log} />
            </Box>
        </tr>
    );
}

function holdsSaid({ running_s, warm_s, starts, pulls, places }: NonNullable<Log['holds']>): string {
    const count = (number: number, one: string) => `${number} ${one}${number === 1 ? '' : 's'}`;
    if (running_s === 0) return 'It never runs.';
    return [`runs ${formatNumber(running_s / 60, 1)} min, ${formatNumber((100 * warm_s) / running_s, 0)} % of it warm`, ...(starts ? [count(starts, 'start')] : []), ...(pulls ? [count(pulls, 'pull')] : []), ...(places ? [`${count(places, 'place')} of speed and load`] : [])].join('; ');
}
