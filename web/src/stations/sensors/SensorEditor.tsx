import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Hardware, type Schemas, type Sensor, type SensorRow } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { BeginFrom } from '../../parts/BeginFrom';
import { Choice } from '../../parts/Choice';
import { fieldProblem } from '../../parts/fieldProblem';
import { ProblemNote } from '../../parts/ProblemNote';
import { DATA_FROM } from '../../parts/provenanceWords';
import { useComputed } from '../../parts/useComputed';
import { useKeep } from '../../parts/useKeep';
import { draftOf, emptyDraft, sensorOf, type Draft, type SensorFunction } from './draft';
import { EthanolTry } from './EthanolTry';
import { SensorMargin } from './SensorMargin';
import { SensorVersions } from './SensorVersions';
import { ThrottleCapture } from './ThrottleCapture';
import { TransferFields } from './TransferFields';
import { TransferPlot } from './TransferPlot';
import { ValueTable } from './ValueTable';
import { WhatIfs } from './WhatIfs';

interface Props {
    hardware: Hardware;
    definition: SensorFunction;
    row: SensorRow | undefined;
    onReset: () => void;
}

export interface TableAxis {
    of: 'signal' | 'resistance';
    axis: number[] | null;
}

/** One sensor: where it comes from, its curve, and what follows while it is typed. */
export function SensorEditor({ hardware, definition, row, onReset }: Props) {
    const { job } = useJob();
    const defaults = hardware.sensor_defaults;
    const queryClient = useQueryClient();
    const [draft, setDraft] = useState<Draft>(() => (row ? draftOf(row.sensor, definition, defaults) : emptyDraft(definition, defaults)));
    const [tableAxis, setTableAxis] = useState<TableAxis>({ of: 'signal', axis: null });
    const change = (part: Partial<Draft>) => setDraft((old) => ({ ...old, ...part }));
    const sensor = sensorOf(draft, defaults);
    const computed = useComputed(
        'sensor-preview',
        // A sensor has a curve before it has a name.
        sensor && { sensor: { ...sensor, name: sensor.name || definition.title }, ...tableAxis },
        (body) => unwrap(client.POST('/api/sensors/preview', { body })),
    );
    const again = () => refresh(queryClient, job.id, 'sensors');
    const save = useMutation({
        mutationFn: (body: Sensor) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/sensors', {
                    params: { path: { job_id: job.id } },
                    body: { sensor: body },
                }),
            ),
        onSuccess: again,
    });
    const remove = useMutation({
        mutationFn: () =>
            unwrap(
                client.DELETE('/api/jobs/{job_id}/sensors/{function}', {
                    params: { path: { job_id: job.id, function: definition.key } },
                }),
            ),
        onSuccess: async () => {
            await again();
            onReset();
        },
    });
    const keep = useKeep();
    const problem = (name: string) => fieldProblem([save.error, keep.error, sensor ? computed.error : null], name);
    const answer = sensor && !computed.error ? computed.data : undefined;
    const isSaved = row !== undefined && JSON.stringify(sensor) === JSON.stringify(sensorOf(draftOf(row.sensor, definition, defaults), defaults));
    return (
        <WithMargin margin={<SensorMargin definition={definition} answer={answer} kind={draft.kind} hardware={hardware} />}>
            <SensorHead
                definition={definition}
                row={row}
                setDraft={setDraft}
                defaults={defaults}
                sensor={sensor}
                keep={keep}
                isSaved={isSaved}
                isRemoving={remove.isPending}
                onRemove={() => remove.mutate()}
                isSaving={save.isPending}
                onSave={save.mutate}
            />
            <SensorKind hardware={hardware} definition={definition} setDraft={setDraft} defaults={defaults} draft={draft} change={change} problem={problem} />
            {definition.key === 'throttle' && <ThrottleCapture onTake={(points, deadZone) => change({ kind: 'linear', way: 'points', points, deadZone })} />}
            <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: { xs: '1fr', lg: 'minmax(250px, 4fr) 7fr' }, alignItems: 'start', mb: 2 }}>
                <TransferFields draft={draft} definition={definition} purposes={hardware.paste_purposes[definition.key] ?? {}} change={change} problem={problem} />
                <CurveSoFar answer={answer} definition={definition} isRefused={Boolean(computed.error && sensor)} />
            </Box>
            {save.error && <ProblemNote error={save.error} />}
            {keep.error && <ProblemNote error={keep.error} />}
            {remove.error && <ProblemNote error={remove.error} />}
            {computed.error && sensor && !problem('points') && <ProblemNote error={computed.error} />}
            {definition.key === 'flexible_fuel' && answer && sensor && <EthanolTry sensor={{ ...sensor, name: sensor.name || definition.title }} />}
            {answer && (
                <ValueTable
                    definition={definition}
                    signalUnit={answer.sheet.signal_unit}
                    rows={answer.table}
                    hasResistance={draft.kind === 'thermistor'}
                    chosen={tableAxis}
                    onChoose={setTableAxis}
                    saved={isSaved}
                />
            )}
        </WithMargin>
    );
}

/** The curve and what follows from it, or why there is none. */
function CurveSoFar({ answer, definition, isRefused }: { answer: Schemas['SensorPreviewOut'] | undefined; definition: SensorFunction; isRefused: boolean }) {
    return (
        <Box>
            {answer ? (
                <>
                    <TransferPlot definition={definition} sheet={answer.sheet} />
                    <WhatIfs definition={definition} sheet={answer.sheet} />
                </>
            ) : (
                <Typography variant="body2" sx={{ pt: 3 }}>
                    {isRefused
                        ? 'No curve: see the sentence at the field.'
                        : 'The curve is drawn here as soon as there are enough points.'}
                </Typography>
            )}
        </Box>
    );
}

interface SensorKindProps {
    hardware: Hardware;
    definition: SensorFunction;
    setDraft: (draft: Draft) => void;
    defaults: Hardware['sensor_defaults'];
    draft: Draft;
    change: (part: Partial<Draft>) => void;
    problem: (name: string) => string | undefined;
}

/** Where it comes from and what form its curve has. */
function SensorKind({ hardware, definition, setDraft, defaults, draft, change, problem }: SensorKindProps) {
    const { vocabulary } = useJob();
    return (
        <Box sx={{ display: 'grid', gap: 1.5, mb: 2, gridTemplateColumns: { xs: '1fr', sm: 'repeat(2, minmax(0, 1fr))', lg: '1.2fr 1.2fr 0.9fr 0.9fr' } }}>
            <BeginFrom
                what="a known sensor …"
                items={hardware.sensors
                    .filter(({ sensor: known }) => known.function === definition.key)
                    .map(({ id, sensor: known }) => ({ id, name: known.name, part: known }))}
                onChoose={(known) => setDraft(draftOf(known, definition, defaults))}
            />
            <TextField
                label="What is fitted"
                value={draft.name}
                onChange={(event) => change({ name: event.target.value })}
                error={Boolean(problem('name'))}
                helperText={problem('name')}
                required
            />
            <Choice
                label="Curve"
                value={draft.kind}
                onChange={(kind) => change({ kind: kind as Draft['kind'], way: 'points', points: [] })}
                options={Object.fromEntries(
                    hardware.transfers
                        .filter(({ key }) => (definition.transfers as string[]).includes(key))
                        .map(({ key, title }) => [key, title]),
                )}
                error={problem('transfer.kind')}
            />
            <Choice
                label="Data from"
                value={draft.provenance}
                onChange={(value) => change({ provenance: value as Draft['provenance'] })}
                options={Object.fromEntries(vocabulary.provenance.map((key) => [key, DATA_FROM[key] ?? key]))}
            />
        </Box>
    );
}

interface SensorHeadProps {
    definition: SensorFunction;
    row: SensorRow | undefined;
    setDraft: (draft: Draft) => void;
    defaults: Hardware['sensor_defaults'];
    sensor: Sensor | null;
    keep: ReturnType<typeof useKeep>;
    isSaved: boolean;
    isRemoving: boolean;
    onRemove: () => void;
    isSaving: boolean;
    onSave: (sensor: Sensor) => void;
}

/** Its name, and what can be done with it. */
function SensorHead({ definition, row, setDraft, defaults, sensor, keep, isSaved, isRemoving, onRemove, isSaving, onSave }: SensorHeadProps) {
    return (
        <Stack direction="row" sx={{ alignItems: 'center', flexWrap: 'wrap', gap: 1.5, mb: 1.5 }}>
            <Typography variant="h1" sx={{ flex: 1, minWidth: 180 }}>
                {definition.title}
            </Typography>
            {row && <SensorVersions definition={definition} onTake={(old) => setDraft(draftOf(old, definition, defaults))} />}
            <Button
                variant="outlined"
                disabled={!sensor || keep.isPending}
                onClick={() => sensor && keep.mutate({ sensor })}
            >
                {keep.isSuccess ? 'Kept for the next job' : 'Keep for the next job'}
            </Button>
            {row && (
                <Button color="error" disabled={isRemoving} onClick={onRemove}>
                    Remove
                </Button>
            )}
            <Button
                variant="contained"
                disabled={!sensor || isSaving || isSaved}
                onClick={() => sensor && onSave(sensor)}
            >
                {isSaved ? 'Saved' : 'Save this sensor'}
            </Button>
        </Stack>
    );
}
