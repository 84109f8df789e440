import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';

import type { Injectors } from '../../api/client';
import { hardwareQuery } from '../../api/hardware';
import { injectorsQuery, supplyQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { InjectorSheet } from './InjectorSheet';
import { SupplySheet } from './SupplySheet';
import { UnknownInjectors } from './UnknownInjectors';

/** Station 4: injectors, the supply that feeds them, and injectors nobody knows. */
export function InjectorsPage() {
    const { job } = useJob();
    const { part = 'fitted' } = useParams();
    const hardware = useQuery(hardwareQuery);
    const injectors = useQuery(injectorsQuery(job.id));
    const supply = useQuery(supplyQuery(job.id));
    const [proposal, setProposal] = useState<Injectors | null>(null);
    const base = `/jobs/${job.id}/injectors`;
    const error = hardware.error ?? injectors.error ?? supply.error;
    if (!hardware.data || !injectors.data || !supply.data) {
        return error ? <ProblemNote error={error} /> : <Loading what="Opening the injectors" />;
    }
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs value={part} aria-label="Injectors and supply" sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}>
                <Tab value="fitted" label="Injectors" component={Link} to={base} />
                <Tab value="supply" label="Fuel supply" component={Link} to={`${base}/supply`} />
                <Tab value="unknown" label="Unknown injectors" component={Link} to={`${base}/unknown`} />
            </Tabs>
            {part === 'supply' ? (
                <SupplySheet key={supply.data.number} hardware={hardware.data} saved={supply.data} />
            ) : part === 'unknown' ? (
                <UnknownInjectors injectors={injectors.data.injectors} onTake={setProposal} />
            ) : (
                <InjectorSheet
                    key={`${injectors.data.number}.${proposal?.flow ?? ''}`}
                    hardware={hardware.data}
                    saved={injectors.data}
                    proposal={proposal}
                    onSaved={() => setProposal(null)}
                />
            )}
        </Box>
    );
}
