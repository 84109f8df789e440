import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { Choice } from '../../parts/Choice';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';

interface Hidden {
    valve?: Partial<Schemas['ValveHardware']>;
    loops?: Schemas['IdleLoops'];
    trouble?: Partial<Schemas['IdleTrouble']>;
    spread_pct?: number;
}

interface Props {
    run: Schemas['BenchIdleIn']['run'];
    button: string;
    /** What may be hidden in it, by wording. */
    troubles: Record<string, Hidden>;
    onLog: (logId: number) => void;
}

const VALVE = { kind: 'two_wire', opens_pct: 24, full_pct: 72, sticks_pct: 0, inverted: false, curve: 1, wrong_frequency: false } as const;
const STOP = { leak_gps: 0, fuel: 1, missing: 0, load_kpa: 0, load_every_s: 8, stop: 1.7 };

/** The warm simulated engine, to practise on: it says so wherever it shows. */
export function SimulatedRun({ run, button, troubles, onLog }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const names = Object.keys(troubles);
    const [chosen, setChosen] = useState(names[0] ?? '');
    const hidden = troubles[chosen] ?? {};
    const drive = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST('/api/jobs/{job_id}/bench/idle', {
                    params: { path: { job_id: job.id } },
                    body: {
                        run,
                        valve: { ...VALVE, ...hidden.valve },
                        trouble: { ...STOP, ...hidden.trouble },
                        ...(hidden.loops ? { loops: hidden.loops } : {}),
                        spread_pct: hidden.spread_pct ?? 0.05,
                        seed: Math.floor(Math.random() * 1e6),
                    },
                }),
            ),
        onSuccess: async (log) => {
            await refresh(queryClient, job.id, 'logs');
            onLog(log.log_id);
        },
    });
    return (
        <Stack spacing={1} sx={{ mb: 2, maxWidth: 640 }}>
            <Typography variant="body2">No car at hand? A simulated engine like this job&apos;s, warm. It is a simulation and stands for no real engine.</Typography>
            <Stack direction={{ xs: 'column', sm: 'row' }} spacing={1}>
                <Choice label="Hidden in it" value={chosen} onChange={setChosen} options={Object.fromEntries(names.map((name) => [name, name]))} width={280} />
                <Button variant="outlined" disabled={drive.isPending} onClick={() => drive.mutate()}>
                    {drive.isPending ? 'It runs …' : button}
                </Button>
            </Stack>
            {drive.error && <ProblemNote error={drive.error} />}
        </Stack>
    );
}
