import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';

import { ProblemNote } from '../../parts/ProblemNote';
import type { WiringWork } from './useWiring';

interface Props {
    title: string;
    work: WiringWork;
    children?: ReactNode;
}

/** Heading of a sheet of the plan, with the one button that saves it. */
export function SaveHead({ title, work, children }: Props) {
    const label = work.isDirty ? 'Save the plan' : work.wiring.number ? `Plan ${work.wiring.number} saved` : 'Take this plan';
    return (
        <>
            <Stack direction="row" sx={{ alignItems: 'center', flexWrap: 'wrap', gap: 1.5, mb: 1.5 }}>
                <Typography variant="h1" sx={{ flex: 1, minWidth: 160 }}>
                    {title}
                </Typography>
                {children}
                <Button variant="contained" disabled={work.isSaving || (!work.isDirty && work.wiring.number > 0)} onClick={work.save}>
                    {label}
                </Button>
            </Stack>
            {work.error && <ProblemNote error={work.error} />}
            {work.saveError && <ProblemNote error={work.saveError} />}
        </>
    );
}
