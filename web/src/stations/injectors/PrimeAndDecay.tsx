import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { LogChoice } from '../../parts/LogChoice';
import { PointGrid } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import type { SupplyDraft } from './draft';

interface Props {
    draft: SupplyDraft;
    change: (part: Partial<SupplyDraft>) => void;
    sheet: Schemas['SupplySheet'] | undefined;
    problem: (name: string) => string | undefined;
}

/** How pressure builds at key-on, and how it falls after key-off. */
export function PrimeAndDecay({ draft, change, sheet, problem }: Props) {
    const { job } = useJob();
    const [fromLog, setFromLog] = useState(false);
    const [logId, setLogId] = useState<number | null>(null);
    const read = useMutation({
        mutationFn: (log_id: number) =>
            unwrap(client.POST('/api/jobs/{job_id}/supply/prime', { params: { path: { job_id: job.id } }, body: { log_id } })),
        onSuccess: (answer) => change({ prime: answer.readings }),
    });
    const decay = sheet?.decay;
    const prime = sheet?.prime;
    return (
        <Box sx={{ display: 'grid', gap: 4, gridTemplateColumns: { xs: 'minmax(0, 1fr)', sm: '1fr 1fr' }, alignItems: 'start' }}>
            <Box component="section" aria-label="Prime">
                <Typography variant="h2" sx={{ mb: 1 }}>
                    How pressure builds
                </Typography>
                {prime && <Sentences sentences={[prime.sentence]} level={prime.level === 'fault' ? 'stop' : prime.level} />}
                <PointGrid
                    title="Since pump on, from a stopwatch"
                    columns={[
                        { title: 'Time', unit: 's' },
                        { title: 'Pressure', unit: 'kPa' },
                    ]}
                    rows={draft.prime}
                    onChange={(rows) => change({ prime: rows })}
                    purpose="prime"
                    error={problem('prime.readings')}
                />
                <Stack sx={{ mt: 1 }} spacing={1}>
                    <Button size="small" sx={{ alignSelf: 'flex-start' }} onClick={() => setFromLog(!fromLog)}>
                        {fromLog ? 'Close' : 'From a key-on log …'}
                    </Button>
                    {fromLog && (
                        <LogChoice
                            value={logId}
                            onChange={(id) => {
                                setLogId(id);
                                read.mutate(id);
                            }}
                            hint="A key-on log with fuel pressure; the rise before the engine turns is read."
                        />
                    )}
                    {read.error && <ProblemNote error={read.error} />}
                </Stack>
            </Box>
            <Box component="section" aria-label="Residual pressure">
                <Typography variant="h2" sx={{ mb: 1 }}>
                    How it holds after key-off
                </Typography>
                {decay && <Sentences sentences={[decay.sentence]} level={decay.verdict === 'good' ? 'good' : decay.verdict === 'leak' ? 'stop' : 'attention'} />}
                <PointGrid
                    title="Since key-off, from a gauge"
                    columns={[
                        { title: 'Time', unit: 'min' },
                        { title: 'Pressure', unit: 'kPa' },
                    ]}
                    rows={draft.decay}
                    onChange={(rows) => change({ decay: rows })}
                    purpose="decay"
                    error={problem('decay.readings')}
                />
            </Box>
        </Box>
    );
}
