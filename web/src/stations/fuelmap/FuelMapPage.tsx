import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';

import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { WithMargin } from '../../parts/Margin';
import { ProblemNote } from '../../parts/ProblemNote';

import { passesQuery, passQuery } from '../../api/fuelMap';
import { DrivingCaution } from './DrivingCaution';
import { CauseList } from './CauseList';
import { CorrectionGrid } from './CorrectionGrid';
import { DriveForm } from './DriveForm';
import { PassMargin } from './PassMargin';
import { RestScatter } from './RestScatter';
import { SolveForm } from './SolveForm';
import { TakeBar } from './TakeBar';
import { TransientsSheet } from './TransientsSheet';
import { CorrectionsTold } from './CorrectionsTold';
import { Cylinders } from './Cylinders';

const PARTS = { map: 'Map', transients: 'Transients' };

/** Station 11: drives become one correction of the map, or a cause that is mended first; then transients. */
export function FuelMapPage() {
    const { job } = useJob();
    const { part = 'map' } = useParams();
    const base = `/jobs/${job.id}/fuel-map`;
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs value={part in PARTS ? part : 'map'} aria-label="Fuel map" sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}>
                {Object.entries(PARTS).map(([key, label]) => (
                    <Tab key={key} value={key} label={label} component={Link} to={key === 'map' ? base : `${base}/${key}`} />
                ))}
            </Tabs>
            {part === 'transients' ? (
                <Box sx={{ p: 2, maxWidth: 1100 }}>
                    <TransientsSheet />
                </Box>
            ) : (
                <MapSheet />
            )}
        </Box>
    );
}

function MapSheet() {
    const { job } = useJob();
    const passes = useQuery(passesQuery(job.id));
    const [chosen, setChosen] = useState<number | null>(null);
    const [locked, setLocked] = useState<ReadonlySet<string>>(new Set());
    const lock = (place: string) => setLocked((before) => new Set(before.has(place) ? [...before].filter((one) => one !== place) : [...before, place]));
    const number = chosen ?? passes.data?.passes[0]?.number ?? null;
    if (!passes.data) return passes.error ? <ProblemNote error={passes.error} /> : <Loading what="Opening the fuel map" />;
    return (
        <WithMargin margin={number === null ? <NoPass /> : <PassMargin number={number} passes={passes.data.passes} onChoose={setChosen} />}>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Fuel map
            </Typography>
            {number !== null && <Pass key={number} number={number} onSolved={setChosen} locked={locked} onLock={lock} />}
            <SolveForm maps={passes.data} locked={locked} onSolved={setChosen} />
            <DriveForm />
            <DrivingCaution />
        </WithMargin>
    );
}

/** One pass: what it says, its causes, the map, and what can be taken. */
function Pass({ number, onSolved, locked, onLock }: { number: number; onSolved: (number: number) => void; locked: ReadonlySet<string>; onLock: (place: string) => void }) {
    const { job } = useJob();
    const pass = useQuery(passQuery(job.id, number));
    if (!pass.data) return pass.error ? <ProblemNote error={pass.error} /> : <Loading what="Opening the pass" />;
    const { result } = pass.data;
    return (
        <Box sx={{ mb: 3 }}>
            <CauseList result={result} onSolved={onSolved} />
            <CorrectionGrid result={result} locked={locked} onLock={onLock} />
            <TakeBar number={number} pass={pass.data} />
            <CorrectionsTold number={number} corrections={result.corrections ?? []} />
            <Cylinders number={number} told={result.cylinders ?? []} isAsked={pass.data.trims} />
            {result.rests && <RestScatter rests={result.rests} tells={pass.data.rest_tells} />}
        </Box>
    );
}

/** What a pass is, where none was made. */
function NoPass() {
    return (
        <>
            <Typography variant="h2" sx={{ mb: 1 }}>
                No pass yet
            </Typography>
            <Typography variant="body2">Choose logs of drives, warm. All of them together become one correction of the map, each cell with its band, and what is no fault of the map is named first.</Typography>
        </>
    );
}
