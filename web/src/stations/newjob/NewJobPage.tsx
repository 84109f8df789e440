import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';

import type { Vocabulary } from '../../api/client';
import { vocabularyQuery } from '../../api/vocabulary';
import { Choice } from '../../parts/Choice';
import { Loading } from '../../parts/Loading';
import { WithMargin } from '../../parts/Margin';
import { ProblemNote } from '../../parts/ProblemNote';
import { inUnits } from '../../units/said';
import type { UnitChoice } from '../../units/units';
import { Computed } from './Computed';
import { FromArchive } from './FromArchive';
import { EMPTY, type Form } from './form';
import { EngineGroup, FuelGroup, SchoolsGroup, VehicleGroup } from './groups';
import { useNewJob } from './useNewJob';

const METRIC: UnitChoice = { temperature: '°C', pressure: 'kPa', injector_flow: 'cm³/min', mixture: 'lambda' };
const IMPERIAL: UnitChoice = { temperature: '°F', pressure: 'psi', injector_flow: 'lb/h', mixture: 'AFR' };

/** A new job: what is known of the engine; figures are computed while it is typed. */
export function NewJobPage() {
    const vocabulary = useQuery(vocabularyQuery);
    return vocabulary.data ? <NewJob vocabulary={vocabulary.data} /> : <Loading what="Opening the form" />;
}

function NewJob({ vocabulary }: { vocabulary: Vocabulary }) {
    const [form, setForm] = useState<Form>(EMPTY);
    const [units, setUnits] = useState(METRIC);
    const { engine, create, judgement, implausible, problem } = useNewJob(form, vocabulary, units);
    const set = (part: Partial<Form>) => setForm((old) => ({ ...old, ...part }));
    const submit = (event: FormEvent) => {
        event.preventDefault();
        if (engine) create.mutate();
    };
    const group = { form, vocabulary, units, set, problem };
    return (
        <WithMargin margin={<Computed judgement={judgement} units={units} />}>
            <Box component="form" onSubmit={submit} noValidate>
                <Stack direction="row" sx={{ alignItems: 'baseline', mb: 1.5, gap: 2 }}>
                    <Typography variant="h1" sx={{ flex: 1 }}>
                        New job
                    </Typography>
                    <Choice
                        label="Units"
                        value={units === IMPERIAL ? 'imperial' : 'metric'}
                        onChange={(value) => setUnits(value === 'imperial' ? IMPERIAL : METRIC)}
                        options={{ metric: '°C, kPa, cm³/min', imperial: '°F, psi, lb/h' }}
                        width={190}
                    />
                </Stack>
                <VehicleGroup {...group} />
                <EngineGroup {...group} />
                <FuelGroup {...group} />
                <SchoolsGroup {...group} />
                {implausible && (
                    <Implausible
                        sentence={implausible.map((sentence) => inUnits(sentence, units)).join(' ')}
                        reason={form.overrideReason}
                        onReason={(overrideReason) => set({ overrideReason })}
                    />
                )}
                {create.error && <ProblemNote error={create.error} />}
                <Button type="submit" variant="contained" size="large" disabled={engine === null || create.isPending} sx={{ mt: 1 }}>
                    Compute the start tables
                </Button>
            </Box>
            <FromArchive />
        </WithMargin>
    );
}

/** Data that hardly can be; a written reason lets them pass. */
function Implausible({ sentence, reason, onReason }: { sentence: string; reason: string; onReason: (reason: string) => void }) {
    return (
        <Alert severity="warning" variant="outlined" sx={{ mb: 2, color: 'text.primary' }}>
            <Stack spacing={1}>
                <span>{sentence}</span>
                <TextField label="If it is really so, say why" value={reason} onChange={(event) => onReason(event.target.value)} fullWidth />
            </Stack>
        </Alert>
    );
}
