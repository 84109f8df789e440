import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { Link, useLocation } from 'react-router';

import type { Job, TrialRow } from '../api/client';
import { STATIONS } from '../stations/registry';
import { useJob } from '../parts/jobContext';
import { nextActionPath } from './nextActionPath';
import { inUnits } from '../units/said';

const VERBS: Record<Job['next_action']['kind'], string> = {
    enter: 'Open the sheet',
    check: 'Open the sheet',
    record: 'Record a start',
    decide: 'Look and decide',
    mend: 'See what to mend',
    repeat: 'Record a start',
    prove: 'Record a start',
};

/** The one next action, always in the same place. */
export function NextAction({ trials }: { trials: TrialRow[] }) {
    const { job } = useJob();
    const { pathname } = useLocation();
    const path = nextActionPath(job, trials);
    const { kind, station, part } = job.next_action;
    const opens = STATIONS.find((entry) => entry.key === station)?.opens ?? {};
    const isSheet = kind === 'enter' || kind === 'check' || path.endsWith(`/${station}`);
    const verb = (isSheet ? opens[part] : undefined) ?? VERBS[kind];
    return (
        <Box
            role="region"
            aria-label="Next action"
            className="no-print"
            sx={{
                display: 'flex',
                alignItems: 'center',
                flexWrap: { xs: 'wrap', sm: 'nowrap' },
                gap: 1.5,
                px: 2,
                py: 0.75,
                minHeight: 48,
                borderBottom: 1,
                borderColor: 'divider',
                borderLeft: 6,
                borderLeftColor: 'primary.main',
            }}
        >
            <Typography sx={{ fontWeight: 600, flex: { xs: '1 1 100%', sm: 1 }, minWidth: 0 }}>
                <Box component="span" sx={{ color: 'primary.main', mr: 1 }}>
                    Next
                </Box>
                {inUnits(job.next_action.sentence)}
            </Typography>
            {pathname !== path && (
                <Button component={Link} to={path} variant="contained" sx={{ flex: 'none', minHeight: 40 }}>
                    {verb}
                </Button>
            )}
        </Box>
    );
}
