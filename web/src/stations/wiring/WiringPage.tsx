import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import type { Schemas, Wiring, WiringVocabulary } from '../../api/client';
import { controllersQuery, wiringQuery, wiringVocabularyQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { ControllerSheet } from './ControllerSheet';
import { FittedSheet } from './FittedSheet';
import { ListSheet } from './ListSheet';
import { OutputsSheet } from './OutputsSheet';
import { PlanSheet } from './PlanSheet';
import { ThreeWireSheet } from './ThreeWireSheet';
import { useWiring } from './useWiring';

/** Station 2: which function is on which pin, and every wire that leads there. */
export function WiringPage() {
    const { job } = useJob();
    const wiring = useQuery(wiringQuery(job.id));
    const words = useQuery(wiringVocabularyQuery);
    const controllers = useQuery(controllersQuery);
    const error = wiring.error ?? words.error ?? controllers.error;
    if (!wiring.data || !words.data || !controllers.data) {
        return error ? <ProblemNote error={error} /> : <Loading what="Opening the wiring" />;
    }
    return <Sheets wiring={wiring.data} words={words.data} controllers={controllers.data} />;
}

interface Props {
    wiring: Wiring;
    words: WiringVocabulary;
    controllers: Schemas['ControllerOut'][];
}

function Sheets({ wiring, words, controllers }: Props) {
    const { job } = useJob();
    const { part = 'plan' } = useParams();
    const work = useWiring(wiring);
    const base = `/jobs/${job.id}/wiring`;
    const profile =
        work.controller === 'saved'
            ? wiring.profile
            : (controllers.find(({ key }) => key === work.controller)?.profile ?? wiring.profile);
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs
                value={part}
                aria-label="Wiring"
                variant="scrollable"
                allowScrollButtonsMobile
                sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}
            >
                <Tab value="plan" label="Plan" component={Link} to={base} />
                <Tab value="fitted" label="What is fitted" component={Link} to={`${base}/fitted`} />
                <Tab value="list" label="Wiring list" component={Link} to={`${base}/list`} />
                <Tab value="outputs" label="Output conditions" component={Link} to={`${base}/outputs`} />
                <Tab value="three-wire" label="Unknown sensor" component={Link} to={`${base}/three-wire`} />
                <Tab value="controller" label="Controllers" component={Link} to={`${base}/controller`} />
            </Tabs>
            {part === 'fitted' ? (
                <FittedSheet work={work} words={words} />
            ) : part === 'list' ? (
                <ListSheet work={work} words={words} profile={profile} />
            ) : part === 'outputs' ? (
                <OutputsSheet />
            ) : part === 'three-wire' ? (
                <ThreeWireSheet />
            ) : part === 'controller' ? (
                <ControllerSheet work={work} words={words} controllers={controllers} />
            ) : (
                <PlanSheet work={work} words={words} controllers={controllers} profile={profile} />
            )}
        </Box>
    );
}
