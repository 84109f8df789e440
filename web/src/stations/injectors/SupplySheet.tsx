import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Hardware, type Schemas, type Supply } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { BeginFrom } from '../../parts/BeginFrom';
import { Caution, FUEL_CAUTION } from '../../parts/Caution';
import { Choice } from '../../parts/Choice';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { PointGrid } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { DATA_FROM } from '../../parts/provenanceWords';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { useComputed } from '../../parts/useComputed';
import { useKeep } from '../../parts/useKeep';
import { supplyDraft, supplyFrom, type SupplyDraft } from './draft';
import { MarginChart } from './MarginChart';
import { PrimeAndDecay } from './PrimeAndDecay';
import { SupplyMargin } from './SupplyMargin';

interface Props {
    hardware: Hardware;
    saved: Schemas['SupplyOut'];
}

const LEVELS = { good: 'good', attention: 'attention', short: 'stop' } as const;

/** Pump, regulator and lines: enough fuel over the whole range, and how pressure builds and holds. */
export function SupplySheet({ hardware, saved }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [draft, setDraft] = useState<SupplyDraft>(() => supplyDraft(saved.supply));
    const change = (part: Partial<SupplyDraft>) => setDraft((old) => ({ ...old, ...part }));
    const entry = supplyFrom(draft);
    const path = { params: { path: { job_id: job.id } } };
    const computed = useComputed(
        `supply-${job.id}-${job.revision}`,
        entry && { supply: { ...entry, name: entry.name || 'not named yet' } },
        (body) => unwrap(client.POST('/api/jobs/{job_id}/supply/preview', { ...path, body })),
    );
    const save = useMutation({
        mutationFn: (supply: Supply) => unwrap(client.POST('/api/jobs/{job_id}/supply', { ...path, body: { supply } })),
        onSuccess: () => refresh(queryClient, job.id, 'injectors', 'tables'),
    });
    const keep = useKeep();
    const problem = (name: string) => fieldProblem([save.error, keep.error, entry ? computed.error : null], name);
    const sheet = entry && !computed.error ? computed.data?.sheet : undefined;
    const isSaved = saved.number > 0 && JSON.stringify(entry) === JSON.stringify(supplyFrom(supplyDraft(saved.supply)));
    return (
        <WithMargin margin={<SupplyMargin sheet={sheet} />}>
            <SupplyHead entry={entry} keep={keep} isSaved={isSaved} isSaving={save.isPending} onSave={save.mutate} />
            {sheet && <Sentences sentences={sheet.margin.sentences} level={LEVELS[sheet.margin.level]} />}
            <WhatIsFitted hardware={hardware} change={change} draft={draft} problem={problem} />
            {save.error && <ProblemNote error={save.error} />}
            {keep.error && <ProblemNote error={keep.error} />}
            {computed.error && entry && <ProblemNote error={computed.error} />}
            <PumpReadings draft={draft} change={change} problem={problem} sheet={sheet} />
            <Caution>{FUEL_CAUTION}</Caution>
            <PrimeAndDecay draft={draft} change={change} sheet={sheet ?? undefined} problem={problem} />
        </WithMargin>
    );
}

interface PumpReadingsProps {
    draft: SupplyDraft;
    change: (part: Partial<SupplyDraft>) => void;
    problem: (name: string) => string | undefined;
    sheet: Schemas['SupplyOut']['sheet'] | undefined;
}

/** What the pump gives, and what the engine takes of it. */
function PumpReadings({ draft, change, problem, sheet }: PumpReadingsProps) {
    return (
        <Box sx={{ display: 'grid', gap: 3, mb: 3, mt: 2, gridTemplateColumns: { xs: 'minmax(0, 1fr)', sm: '300px minmax(0, 1fr)' }, alignItems: 'start' }}>
            <PointGrid
                title="What the pump gives"
                columns={[
                    { title: 'At', unit: 'V' },
                    { title: 'Pressure', unit: 'kPa' },
                    { title: 'Flow', unit: 'l/h' },
                ]}
                rows={draft.readings}
                onChange={(readings) => change({ readings })}
                purpose="pump"
                error={problem('readings')}
            />
            {sheet ? (
                <MarginChart margin={sheet.margin} />
            ) : (
                <Typography variant="body2" sx={{ pt: 3 }}>
                    Demand and supply are drawn here as soon as the pump has two readings.
                </Typography>
            )}
        </Box>
    );
}

interface WhatIsFittedProps {
    hardware: Hardware;
    change: (part: Partial<SupplyDraft>) => void;
    draft: SupplyDraft;
    problem: (name: string) => string | undefined;
}

/** Pump, regulator, voltage and line. */
function WhatIsFitted({ hardware, change, draft, problem }: WhatIsFittedProps) {
    const { vocabulary } = useJob();
    return (
        <Group title="What is fitted">
            <BeginFrom
                what="a known pump …"
                items={hardware.supplies.map(({ id, supply }) => ({ id, name: supply.name, part: supply }))}
                // Only the pump: regulator, pressure and lines are this car's.
                onChoose={(known) =>
                    change({
                        name: known.name,
                        readings: supplyDraft(known).readings,
                        provenance: known.provenance,
                        note: known.note,
                    })
                }
            />
            <TextField
                label="Which pump"
                value={draft.name}
                onChange={(event) => change({ name: event.target.value })}
                error={Boolean(problem('name'))}
                helperText={problem('name')}
                required
            />
            <QuantityField label="Rail pressure" unit="kPa" value={draft.rail} onChange={(rail) => change({ rail })} error={problem('rail_pressure_kpa')} required />
            <Choice
                label="Data from"
                value={draft.provenance}
                onChange={(value) => change({ provenance: value as SupplyDraft['provenance'] })}
                options={Object.fromEntries(vocabulary.provenance.map((key) => [key, DATA_FROM[key] ?? key]))}
            />
            <Box sx={{ gridColumn: { sm: 'span 2' }, display: 'grid' }}>
                <Choice
                    label="Regulator"
                    value={draft.regulator}
                    onChange={(regulator) => change({ regulator: regulator as SupplyDraft['regulator'] })}
                    options={Object.fromEntries(hardware.regulators.map(({ key, title }) => [key, title]))}
                />
            </Box>
            <QuantityField label="At the pump, full load" unit="V" value={draft.voltage} onChange={(voltage) => change({ voltage })} error={problem('voltage_v')} />
            <TextField label="Note" value={draft.note} onChange={(event) => change({ note: event.target.value })} />
            <QuantityField label="The line loses" unit="kPa" value={draft.loss} onChange={(loss) => change({ loss })} error={problem('line.loss_kpa')} help="between pump and rail" />
            <QuantityField label="… at a flow of" unit="l/h" value={draft.lossAt} onChange={(lossAt) => change({ lossAt })} />
        </Group>
    );
}

interface SupplyHeadProps {
    entry: Supply | null;
    keep: ReturnType<typeof useKeep>;
    isSaved: boolean;
    isSaving: boolean;
    onSave: (supply: Supply) => void;
}

/** Keep it, or put it in force. */
function SupplyHead({ entry, keep, isSaved, isSaving, onSave }: SupplyHeadProps) {
    return (
        <Stack direction="row" sx={{ alignItems: 'center', flexWrap: 'wrap', gap: 1.5, mb: 1.5 }}>
            <Typography variant="h1" sx={{ flex: 1, minWidth: 160 }}>
                Fuel supply
            </Typography>
            <Button variant="outlined" disabled={!entry || keep.isPending} onClick={() => entry && keep.mutate({ supply: entry })}>
                {keep.isSuccess ? 'Kept for the next job' : 'Keep for the next job'}
            </Button>
            <Button variant="contained" disabled={!entry || isSaving || isSaved} onClick={() => entry && onSave(entry)}>
                {isSaved ? 'Saved, in force' : 'Save and put in force'}
            </Button>
        </Stack>
    );
}
