import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { useJob } from '../../parts/jobContext';
import { Mark } from '../../parts/Mark';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { moment } from '../../parts/when';
import { saveLimits, tickCheck } from './api';

type Limits = Schemas['PullLimits'];

/** What no pull may pass, and what is proven before the first one. */
export function LimitsSheet({ pulls }: { pulls: Schemas['PullsOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [limits, setLimits] = useState<Record<string, number | null>>({ ...(pulls.limits ?? pulls.proposed) });
    const save = useMutation({ mutationFn: () => saveLimits(job.id, limits as unknown as Limits), onSuccess: () => refresh(queryClient, job.id, 'pulls') });
    const isWhole = Object.values(limits).every((value) => value !== null);
    const isSaved = pulls.limits !== null && JSON.stringify(limits) === JSON.stringify(pulls.limits);
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Limits and checks
            </Typography>
            <Typography sx={{ mb: 1.5 }}>{pulls.limits ? 'Every pull is checked against these at once.' : 'Proposed for this engine; look at each, then write them down. Nothing is pulled before.'}</Typography>
            <Group title="No pull may pass">
                {Object.entries(pulls.titles).map(([key, [title = '', unit = '']]) => (
                    <QuantityField key={key} label={title} unit={unit} value={limits[key] ?? null} onChange={(value) => setLimits((old) => ({ ...old, [key]: value }))} error={fieldProblem([save.error], `limits.${key}`)} />
                ))}
            </Group>
            <Button variant="contained" sx={{ minHeight: 44, mb: 2 }} disabled={!isWhole || isSaved || save.isPending} onClick={() => save.mutate()}>
                {isSaved ? 'Written down' : 'Write the limits down'}
            </Button>
            {save.data && save.data.beyond.length > 0 && <Sentences level="stop" sentences={['Measured beyond these limits already:', ...save.data.beyond]} />}
            {save.error && <ProblemNote error={save.error} />}
            {(['before', 'after'] as const).map((when) => (
                <Box key={when} component="section" aria-label={when} sx={{ mb: 2 }}>
                    <Typography variant="h2" sx={{ mb: 0.5 }}>
                        {when === 'before' ? 'Before the first pull' : 'After the first pulls'}
                    </Typography>
                    {pulls.checks
                        .filter(({ check }) => check.when === when)
                        .map((entry) => (
                            <CheckRow key={entry.check.key} entry={entry} />
                        ))}
                </Box>
            ))}
        </>
    );
}

/** One check with its tick. */
function CheckRow({ entry: { check, done, note, by, at } }: { entry: Schemas['CheckOut'] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [text, setText] = useState('');
    const tick = useMutation({ mutationFn: () => tickCheck(job.id, check.key, text), onSuccess: () => refresh(queryClient, job.id, 'pulls') });
    return (
        <Box sx={{ borderTop: 1, borderColor: 'divider', py: 1, display: 'grid', gridTemplateColumns: { xs: '1fr', sm: 'minmax(0, 1fr) 300px' }, gap: 1, alignItems: 'center' }}>
            <Box>
                <Typography sx={{ fontWeight: 650 }}>
                    {done && <Mark state="pass" word={false} />} {check.title}
                </Typography>
                <Typography variant="body2">{check.text}</Typography>
                {done && (
                    <Typography variant="caption">
                        {by}, {at ? moment(at) : ''}
                        {note && `: ${note}`}
                    </Typography>
                )}
            </Box>
            {!done && (
                <Box sx={{ display: 'flex', gap: 1 }}>
                    <TextField label="Note" value={text} onChange={(event) => setText(event.target.value)} sx={{ flex: 1 }} />
                    <Button variant="outlined" sx={{ minHeight: 48, minWidth: 90 }} disabled={tick.isPending} onClick={() => tick.mutate()} aria-label={`Done: ${check.title}`}>
                        Done
                    </Button>
                </Box>
            )}
            {tick.error && <ProblemNote error={tick.error} />}
        </Box>
    );
}
