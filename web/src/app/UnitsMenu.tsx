import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import Stack from '@mui/material/Stack';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap } from '../api/client';
import { jobQuery } from '../api/jobs';
import { useJob } from '../parts/jobContext';

const WORDS: Record<string, string> = {
    temperature: 'Temperature',
    pressure: 'Pressure',
    injector_flow: 'Injector flow',
    mixture: 'Mixture',
};

/** The units of a job; values stay as they are, only their show and typing change. */
export function UnitsMenu() {
    const { job, vocabulary } = useJob();
    const [anchor, setAnchor] = useState<HTMLElement | null>(null);
    const queryClient = useQueryClient();
    const choose = useMutation({
        mutationFn: (units: Record<string, string>) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/units', {
                    params: { path: { job_id: job.id } },
                    body: { units },
                }),
            ),
        onSuccess: (changed) => queryClient.setQueryData(jobQuery(job.id).queryKey, changed),
    });
    return (
        <>
            <Button color="inherit" size="small" onClick={(event) => setAnchor(event.currentTarget)}>
                Units {job.units.temperature} {job.units.pressure}
            </Button>
            <Menu
                anchorEl={anchor}
                open={anchor !== null}
                onClose={() => setAnchor(null)}
                slotProps={{ list: { component: 'div', role: 'group', 'aria-label': 'Units' } as object }}
            >
                <Stack spacing={1.5} sx={{ p: 2 }}>
                    {Object.entries(vocabulary.units).map(([dimension, choices]) => (
                        <Stack key={dimension} spacing={0.5}>
                            <Typography variant="body2" id={`unit-${dimension}`}>
                                {WORDS[dimension] ?? dimension}
                            </Typography>
                            <ToggleButtonGroup
                                exclusive
                                size="small"
                                value={job.units[dimension]}
                                aria-labelledby={`unit-${dimension}`}
                                onChange={(_, unit: string | null) => {
                                    if (unit) choose.mutate({ [dimension]: unit });
                                }}
                            >
                                {choices.map((unit) => (
                                    <ToggleButton key={unit} value={unit} sx={{ textTransform: 'none', px: 2 }}>
                                        {unit}
                                    </ToggleButton>
                                ))}
                            </ToggleButtonGroup>
                        </Stack>
                    ))}
                </Stack>
            </Menu>
        </>
    );
}
