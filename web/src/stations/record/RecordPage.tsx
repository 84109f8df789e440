import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import Typography from '@mui/material/Typography';
import useMediaQuery from '@mui/material/useMediaQuery';
import { useState } from 'react';

import { BenchForm } from './BenchForm';
import { LastStarts } from './LastStarts';
import { LogForm } from './LogForm';
import { ObservationForm } from './ObservationForm';

type Way = 'log' | 'bench' | 'observation';

/** Record a start: bring its log, crank the bench engine, or tap what happened. */
export function RecordPage() {
    const narrow = useMediaQuery('(max-width: 600px)', { noSsr: true });
    const [way, setWay] = useState<Way>(narrow ? 'observation' : 'log');
    return (
        <Box sx={{ p: { xs: 1.5, md: 2 }, maxWidth: 1180 }}>
            <Typography variant="h1">Record a start</Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                Before a real start: neutral, brake on, nobody near belts and fan, exhaust led outside, extinguisher
                to hand. Local rules come first.
            </Typography>
            <Tabs
                value={way}
                onChange={(_, value: Way) => setWay(value)}
                variant="scrollable"
                scrollButtons={false}
                sx={{ mb: 2, borderBottom: 1, borderColor: 'divider', '& .MuiTab-root': { minHeight: 48 } }}
            >
                <Tab value="log" label="Bring a log" />
                <Tab value="observation" label="Tap what happened" />
                <Tab value="bench" label="Crank the bench engine" />
            </Tabs>
            {way === 'log' && <LogForm />}
            {way === 'observation' && <ObservationForm />}
            {way === 'bench' && <BenchForm />}
            <LastStarts />
        </Box>
    );
}
