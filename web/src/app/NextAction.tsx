import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { Link, useLocation } from 'react-router';

import type { Job, Trial } from '../api/client';
import { useJob } from './jobContext';
import { nextActionPath } from './nextActionPath';
import { inUnits } from './units';

/** Words of the button where a sheet has to be opened, by station and sheet. */
const SHEETS: Record<string, string> = {
    'intake/review': 'See the review',
    'base-maps/tables': 'Open the table bench',
    wiring: 'Plan the wiring',
    'wiring/list': 'Open the wiring list',
    sensors: 'Enter the sensors',
    'sensors/key-on': 'Check the sensors',
    injectors: 'Look at the injectors',
    trigger: 'Enter the wheel',
    'trigger/capture': 'Capture the edges',
    'trigger/outputs': 'Try the outputs',
    'trigger/timing': 'Read the timing light',
};

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
export function NextAction({ trials }: { trials: Trial[] }) {
    const { job } = useJob();
    const { pathname } = useLocation();
    const path = nextActionPath(job, trials);
    const { kind, station, part } = job.next_action;
    const sheet = kind === 'enter' || kind === 'check' ? SHEETS[[station, part].filter(Boolean).join('/')] : undefined;
    const verb = path.endsWith('/ladder') ? 'Open the ladder' : (sheet ?? VERBS[kind]);
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
                {inUnits(job.next_action.sentence, job.units)}
            </Typography>
            {pathname !== path && (
                <Button component={Link} to={path} variant="contained" sx={{ flex: 'none', minHeight: 40 }}>
                    {verb}
                </Button>
            )}
        </Box>
    );
}
