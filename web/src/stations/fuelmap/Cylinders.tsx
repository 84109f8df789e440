import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { takeCorrection } from './api';

interface Props {
    number: number;
    told: Schemas['CylinderTold'][];
    /** Whether one stands out by as much as a trim is for. */
    isAsked: boolean;
}

/** What each cylinder asks for, where each one's lambda is logged, and the table that holds it. */
export function Cylinders({ number, told, isAsked }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const take = useMutation({ mutationFn: () => takeCorrection(job.id, number, 'cylinder_trim'), onSuccess: () => refresh(queryClient, job.id, 'tables', 'fuel-map') });
    if (!told.length) return null;
    return (
        <Box component="section" aria-label="Trims per cylinder" sx={{ mt: 2 }}>
            {told.map((one) => (
                <Typography key={one.cylinder} variant="body2" sx={{ fontWeight: one.stands_out ? 650 : 400 }}>
                    {one.sentence}
                </Typography>
            ))}
            {isAsked && (
                <Button variant="outlined" disabled={take.isPending} onClick={() => take.mutate()} sx={{ mt: 1 }}>
                    Take the trims into their table
                </Button>
            )}
            {take.data && <Typography sx={{ mt: 1 }}>Revision {take.data.revision} holds them.</Typography>}
            {take.error && <ProblemNote error={take.error} />}
        </Box>
    );
}
