import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas, type WiringLine, type WiringVocabulary } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { inUnits } from '../../units/said';
import { parseNumber } from '../../units/units';
import { Choice } from '../../parts/Choice';
import { fieldProblem } from '../../parts/fieldProblem';
import { NumberField } from '../../parts/NumberField';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { moment } from '../../parts/when';
import { lineWords } from './lineWords';
import type { WiringWork } from './useWiring';

interface Props {
    line: WiringLine | undefined;
    check: Schemas['WireCheckOut'] | undefined;
    change: Schemas['LineChange'] | undefined;
    work: WiringWork;
    words: WiringVocabulary;
}

/** The chosen wire: what a meter must read, what it read, and what the installer says of it. */
export function LineMargin({ line, check, change, work, words }: Props) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [text, setText] = useState('');
    const reading = parseNumber(text);
    const tick = useMutation({
        mutationFn: (good: boolean) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/wiring/checks', {
                    params: { path: { job_id: job.id } },
                    body: { line: line?.key ?? '', reading, unit: reading === null ? '' : (line?.check.unit ?? ''), good },
                }),
            ),
        onSuccess: () => {
            setText('');
            return refresh(queryClient, job.id, 'wiring');
        },
    });
    if (!line) {
        return (
            <Typography variant="body2">
                Choose a wire: what a meter must read, and fields for its length, colour and note stand here.
            </Typography>
        );
    }
    const problem = (name: string) => fieldProblem([work.error, work.saveError], `${line.key}.${name}`);
    const isSaved = work.wiring.number > 0 && work.wiring.plan.lines.some((entry) => entry.key === line.key && entry.pin === line.pin);
    return (
        <>
            <Typography variant="h2">{line.title}</Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                {[line.pin ? `Pin ${line.pin}, ${line.signal}.` : `${line.signal}.`, ...lineWords(line)].join(' ')}
            </Typography>
            {change && (
                <Typography variant="body2" sx={{ borderLeft: 3, borderColor: 'warning.main', pl: 1, mb: 1 }}>
                    After the sign-off: {inUnits(change.sentence)}
                </Typography>
            )}
            <Typography variant="h3" component="h2">At the bench</Typography>
            <Typography variant="body2">{line.check.instruction}</Typography>
            <Typography sx={{ fontWeight: 650, mb: 1 }}>
                {line.check.lower} to {line.check.upper} {line.check.unit}
                <Typography component="span" variant="caption" sx={{ display: 'block' }}>
                    {inUnits(line.check.basis)}
                </Typography>
            </Typography>
            {!isSaved && <Typography variant="body2">Save the plan first; then its wires can be ticked.</Typography>}
            {isSaved && <MeterReading line={line} text={text} reading={reading} isBusy={tick.isPending} onTick={tick.mutate} error={tick.error} onText={setText} />}
            {check && <CheckSaid check={check} />}
            <Typography variant="h3" component="h2" sx={{ mb: 1 }}>
                This wire
            </Typography>
            <WireFields line={line} work={work} problem={problem} words={words} />
        </>
    );
}

interface WireFieldsProps {
    line: WiringLine;
    work: WiringWork;
    problem: (name: string) => string | undefined;
    words: WiringVocabulary;
}

/** Length, size, colour and note of the wire. */
function WireFields({ line, work, problem, words }: WireFieldsProps) {
    const edit = work.entry.edits?.[line.key];
    return (
        <Stack sx={{ gap: 1.5 }}>
            <QuantityField label="Length" unit="m" value={edit?.length_m ?? line.length_m} onChange={(value) => work.edit(line.key, { length_m: value })} error={problem('length_m')} />
            <Choice
                label="Size, mm²"
                value={edit?.size_mm2 ? String(edit.size_mm2) : 'computed'}
                onChange={(value) => work.edit(line.key, { size_mm2: value === 'computed' ? null : Number(value) })}
                options={{ computed: `computed: ${line.size_mm2} mm² (AWG ${line.gauge})`, ...Object.fromEntries(words.sizes_mm2.map((size) => [String(size), `${size} mm²`])) }}
                error={problem('size_mm2')}
            />
            <TextField
                label="Colour"
                value={edit?.colour ?? ''}
                placeholder={line.colour}
                onChange={(event) => work.edit(line.key, { colour: event.target.value.toUpperCase().trim() })}
                error={Boolean(problem('colour'))}
                helperText={problem('colour') ?? words.colours.map(({ key }) => key).join(' ')}
                slotProps={{ inputLabel: { shrink: true } }}
            />
            <TextField label="Note" value={edit?.note ?? ''} onChange={(event) => work.edit(line.key, { note: event.target.value })} error={Boolean(problem('note'))} helperText={problem('note')} multiline />
        </Stack>
    );
}

/** What the last check of this wire said. */
function CheckSaid({ check }: { check: Schemas['WireCheckOut'] }) {
    return (
        <Typography variant="body2" role="status" sx={{ mb: 2, color: check.good ? 'inherit' : 'error.main' }}>
            {check.stale ? `On pin ${check.pin}, before it moved: ` : ''}
            {inUnits(check.sentence)}
            <Typography variant="caption" component="span" sx={{ display: 'block' }}>
                {moment(check.created_at)}, {check.created_by}
            </Typography>
        </Typography>
    );
}

interface MeterReadingProps {
    line: WiringLine;
    text: string;
    reading: number | null;
    isBusy: boolean;
    onTick: (good: boolean) => void;
    error: Error | null;
    onText: (text: string) => void;
}

/** What the meter read, or a tick. */
function MeterReading({ line, text, reading, isBusy, onTick, error, onText }: MeterReadingProps) {
    return (
        <Box sx={{ mb: 2 }}>
            <NumberField label="The meter reads" unit={line.check.unit} value={text} onChange={onText} error={text.trim() && reading === null ? 'This is not a number.' : undefined} />
            <Stack direction="row" sx={{ gap: 1, mt: 1 }}>
                <Button variant="outlined" disabled={isBusy || (text.trim() !== '' && reading === null)} onClick={() => onTick(true)} sx={{ flex: 1, minHeight: 44 }}>
                    {reading === null ? 'Tick: good' : 'Write it down'}
                </Button>
                {reading === null && (
                    <Button disabled={isBusy} onClick={() => onTick(false)} sx={{ minHeight: 44 }}>
                        Wrong
                    </Button>
                )}
            </Stack>
            {error && <ProblemNote error={error} />}
        </Box>
    );
}
