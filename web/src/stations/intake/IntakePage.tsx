import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import { intakeQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { FittedForm } from './FittedForm';
import { InheritedSheet } from './InheritedSheet';
import { PhotographSheet } from './PhotographSheet';
import { ReviewSheet } from './ReviewSheet';

/** Station 1: what is really fitted, what came with it, and whether it can be worked with. */
export function IntakePage() {
    const { job } = useJob();
    const { part = 'fitted' } = useParams();
    const intake = useQuery(intakeQuery(job.id));
    const base = `/jobs/${job.id}/intake`;
    if (!intake.data) return intake.error ? <ProblemNote error={intake.error} /> : <Loading what="Opening the intake" />;
    return (
        <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
            <Tabs value={part} aria-label="Intake" sx={{ px: 2, minHeight: 44, borderBottom: 1, borderColor: 'divider' }}>
                <Tab value="fitted" label="Fitted and claimed" component={Link} to={base} />
                <Tab value="photographs" label={`Photographs${intake.data.photographs.length ? ` (${intake.data.photographs.filter((p) => !p.aside).length})` : ''}`} component={Link} to={`${base}/photographs`} />
                <Tab value="inherited" label="Inherited calibration" component={Link} to={`${base}/inherited`} />
                <Tab value="review" label="Review" component={Link} to={`${base}/review`} />
            </Tabs>
            {part === 'photographs' ? (
                <PhotographSheet photographs={intake.data.photographs} />
            ) : part === 'inherited' ? (
                <InheritedSheet inherited={intake.data.inherited} />
            ) : part === 'review' ? (
                <ReviewSheet inherited={intake.data.inherited} />
            ) : (
                <FittedForm key={intake.data.number} intake={intake.data} />
            )}
        </Box>
    );
}
