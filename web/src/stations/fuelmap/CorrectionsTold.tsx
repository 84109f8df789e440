import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { takeCorrection } from './api';

const TITLES: Record<string, string> = { charge_temperature_correction: 'Charge temperature', barometric_correction: 'Air pressure', warm_up_enrichment: 'Cold driving' };

/** Corrections over intake air and air pressure, where the logs span them. */
export function CorrectionsTold({ number, corrections }: { number: number; corrections: Schemas['CorrectionTold'][] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const take = useMutation({ mutationFn: (key: string) => takeCorrection(job.id, number, key), onSuccess: () => refresh(queryClient, job.id, 'tables') });
    if (!corrections.length) return null;
    return (
        <Box component="section" aria-label="Corrections" sx={{ mt: 2 }}>
            {corrections.map((told) => (
                <Box key={told.key} sx={{ display: 'flex', gap: 1.5, alignItems: 'center', flexWrap: 'wrap', borderTop: 1, borderColor: 'divider', py: 0.75 }}>
                    <Typography variant="body2" sx={{ flex: 1, minWidth: 260 }}>
                        <b>{TITLES[told.key]}:</b> {told.sentence}
                    </Typography>
                    {told.points.length > 0 && (
                        <Button variant="outlined" disabled={take.isPending} onClick={() => take.mutate(told.key)}>
                            Take it into its table
                        </Button>
                    )}
                </Box>
            ))}
            {take.data && <Typography sx={{ mt: 1 }}>Revision {take.data.revision} holds it.</Typography>}
            {take.error && <ProblemNote error={take.error} />}
        </Box>
    );
}
