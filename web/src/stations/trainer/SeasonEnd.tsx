import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';

import { followed, type Task } from '../../api/tasks';
import { beginSeason, endSeason, seasonQuery, type Season } from '../../api/trainer';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { inUnits } from '../../units/said';
import { HandStrip } from './HandStrip';

type Report = NonNullable<Season['report']>;

/** The end of a season: what the engine was, where one stands, and the same mornings again. */
export function SeasonEnd({ season }: { season: Season }) {
    return season.report ? <Told report={season.report} /> : <EndIt />;
}

function EndIt() {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [task, setTask] = useState<Task | null>(null);
    const stop = useRef(new AbortController());
    const end = useMutation({
        mutationFn: async () => {
            stop.current = new AbortController();
            return followed<Report>(await endSeason(job.id), setTask, stop.current.signal);
        },
        onSettled: () => queryClient.invalidateQueries({ queryKey: seasonQuery(job.id).queryKey }),
    });
    return (
        <Box sx={{ my: 2 }}>
            {end.isPending ? (
                <>
                    <LinearProgress variant="determinate" value={100 * (task?.share ?? 0)} aria-label="Other hands play the season" />
                    <Typography variant="body2" aria-live="polite">
                        {task?.sentence ?? 'Other hands play the same season.'}
                    </Typography>
                    <Button onClick={() => stop.current.abort()}>Cancel</Button>
                </>
            ) : (
                <Button variant="outlined" onClick={() => end.mutate()}>
                    End the season and see what the engine was
                </Button>
            )}
            {end.isError && <ProblemNote error={end.error} />}
        </Box>
    );
}

function Told({ report }: { report: Report }) {
    const { job } = useJob();
    const navigate = useNavigate();
    const again = useMutation({
        mutationFn: () => beginSeason({ again: job.id }),
        onSuccess: ({ job_id }) => navigate(`/jobs/${job_id}/season`),
    });
    return (
        <Box component="section" aria-label="How it went" sx={{ my: 2, p: 2, bgcolor: 'background.paper', border: 1, borderColor: 'divider' }}>
            <Typography variant="h2">How it went</Typography>
            <Typography variant="body2">One box a morning: ✓ a good cold start, – not yet.</Typography>
            {report.hands.map((hand) => (
                <HandStrip key={hand.name} hand={hand} />
            ))}
            <Typography variant="h2" sx={{ mt: 1.5 }}>
                What the engine was
            </Typography>
            {report.truth.map((sentence) => (
                <Typography key={sentence}>{inUnits(sentence, job.units)}</Typography>
            ))}
            <Button variant="contained" sx={{ mt: 1.5 }} disabled={again.isPending} onClick={() => again.mutate()}>
                The same mornings again
            </Button>
            {again.isError && <ProblemNote error={again.error} />}
        </Box>
    );
}
