import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { Link, useLocation } from 'react-router';

import { seasonsQuery } from '../api/trainer';

/** On every sheet of a training season: that it is a simulation, and the way back to its days. */
export function SeasonBar({ jobId }: { jobId: number }) {
    const { pathname } = useLocation();
    const season = useQuery(seasonsQuery).data?.find((entry) => entry.job_id === jobId);
    const home = `/jobs/${jobId}/season`;
    if (!season || pathname === home) return null;
    return (
        <Box sx={{ px: 2.75, py: 0.75, borderBottom: 1, borderColor: 'divider' }}>
            <Typography variant="body2">
                Simulation: training season, {season.is_over ? 'over' : `day ${season.day} of ${season.days}`}. <Link to={home}>Back to the season</Link>
            </Typography>
        </Box>
    );
}
