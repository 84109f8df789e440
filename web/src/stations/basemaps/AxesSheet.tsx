import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';
import { fromShown, parseNumber, shownUnit, toShown } from '../../units/units';
import { fieldProblem } from '../../parts/fieldProblem';
import { ProblemNote } from '../../parts/ProblemNote';
import { useComputed } from '../../parts/useComputed';

/** Breakpoints of the tables, what the controller allows, and what other ones would lose. */
export function AxesSheet({ maps }: { maps: Schemas['BaseMapsOut'] }) {
    const { job, vocabulary } = useJob();
    const queryClient = useQueryClient();
    const [typed, setTyped] = useState<Record<string, string>>({});
    const [note, setNote] = useState('');
    const path = { params: { path: { job_id: job.id } } };
    const unitOf = (name: string) => vocabulary.axes.find((axis) => axis.name === name)?.unit ?? '';
    const entries = Object.entries(typed).map(([name, value]) => {
        const numbers = value.split(/[\s;]+/).filter(Boolean).map(parseNumber);
        const points = numbers.includes(null) ? null : (numbers as number[]).map((number) => Number(fromShown(number, unitOf(name), job.units).toFixed(4)));
        return { name, points };
    });
    const isReady = entries.length > 0 && entries.every(({ points }) => points !== null && points.length > 0);
    const axes = Object.fromEntries(entries.map(({ name, points }) => [name, points ?? []]));
    const preview = useComputed(`axes-${job.id}-${maps.revision}`, isReady ? { axes } : null, (body) =>
        unwrap(client.POST('/api/jobs/{job_id}/base-maps/axes/preview', { ...path, body: { ...body, based_on: maps.revision, note: '' } })),
    );
    const save = useMutation({
        mutationFn: () => unwrap(client.POST('/api/jobs/{job_id}/base-maps/axes', { ...path, body: { axes, based_on: maps.revision, note } })),
        onSuccess: () => refresh(queryClient, job.id, 'tables'),
    });
    const reports = isReady && !preview.error ? (preview.data?.tables ?? []) : [];
    return (
        <WithMargin margin={<AxisLimits maps={maps} />}>
            <Typography variant="h1" sx={{ mb: 0.5 }}>
                Breakpoints
            </Typography>
            <Typography variant="body2" sx={{ mb: 1.5, maxWidth: 760 }}>
                Denser where the engine lives. Moving them interpolates every table that runs over them; what is lost is said before anything is saved.
            </Typography>
            <Stack spacing={1.5}>
                {Object.entries(maps.axes).map(([name, points]) => (
                    <AxisField
                        key={name}
                        name={name}
                        points={points}
                        proposed={maps.proposed_axes[name]}
                        next={entries.find((entry) => entry.name === name)?.points ?? null}
                        typed={typed[name]}
                        onType={(written) => setTyped((old) => ({ ...old, [name]: written }))}
                        refusal={fieldProblem([preview.error, save.error], `axes.${name}`) ?? (isReady ? preview.data?.no_room[name] : undefined)}
                    />
                ))}
            </Stack>
            {reports.length > 0 && <WhatIsLost reports={reports} note={note} isBusy={save.isPending} onMove={() => save.mutate()} onLeave={() => setTyped({})} onNote={setNote} />}
            {isReady && !preview.error && preview.data && reports.length === 0 && <Typography sx={{ mt: 2 }}>These are the breakpoints already.</Typography>}
            {(save.error ?? (isReady ? preview.error : null)) && <ProblemNote error={(save.error ?? preview.error) as Error} />}
        </WithMargin>
    );
}

interface WhatIsLostProps {
    reports: Schemas['ReaxedOut'][];
    note: string;
    isBusy: boolean;
    onMove: () => void;
    onLeave: () => void;
    onNote: (note: string) => void;
}

/** What moving them loses, and the note of the revision. */
function WhatIsLost({ reports, note, isBusy, onMove, onLeave, onNote }: WhatIsLostProps) {
    return (
        <Box sx={{ mt: 2 }}>
            <Typography variant="h2">What is lost</Typography>
            {reports.map((report) => (
                <Typography key={report.key} variant="body2">
                    {inUnits(report.sentence)}
                </Typography>
            ))}
            <Stack direction="row" sx={{ gap: 1, mt: 1.5, flexWrap: 'wrap' }}>
                <TextField label="Why (kept with the revision)" value={note} onChange={(event) => onNote(event.target.value)} sx={{ flex: '1 1 260px' }} />
                <Button variant="contained" onClick={onMove} disabled={isBusy}>
                    Move the breakpoints
                </Button>
                <Button onClick={onLeave}>Leave them</Button>
            </Stack>
        </Box>
    );
}

interface AxisFieldProps {
    name: string;
    points: readonly number[];
    proposed: readonly number[] | undefined;
    next: readonly number[] | null;
    typed: string | undefined;
    onType: (written: string) => void;
    refusal: string | undefined;
}

/** One axis to type, with what is proposed for it. */
function AxisField({ name, points, proposed, next, typed, onType, refusal }: AxisFieldProps) {
    const { job, vocabulary } = useJob();
    const axis = vocabulary.axes.find((entry) => entry.name === name);
    const unit = axis?.unit ?? '';
    const inWords = (of: readonly number[]) => of.map((point) => String(Number(toShown(point, unit, job.units).toFixed(2)))).join('  ');
    const value = typed ?? inWords(points);
    const count = value.split(/[\s;]+/).filter(Boolean).length;
    return (
        <Box>
            <Stack direction="row" sx={{ gap: 1, alignItems: 'flex-start' }}>
                <TextField
                    label={`${axis?.title ?? name}, ${shownUnit(unit, job.units)}`}
                    value={value}
                    onChange={(event) => onType(event.target.value)}
                    error={Boolean(refusal)}
                    helperText={refusal ?? `${count} breakpoints`}
                    fullWidth
                    slotProps={{ htmlInput: { style: { fontFamily: mono, fontSize: '0.95rem' }, autoComplete: 'off' } }}
                />
                {proposed && JSON.stringify(proposed) !== JSON.stringify(points) && (
                    <Button size="small" sx={{ mt: 0.5, flex: 'none' }} onClick={() => onType(inWords(proposed))}>
                        Take the proposed
                    </Button>
                )}
            </Stack>
            <AxisRuler points={points} next={next} />
        </Box>
    );
}

/** How many breakpoints the controller holds. */
function AxisLimits({ maps }: { maps: Schemas['BaseMapsOut'] }) {
    const { vocabulary } = useJob();
    return (
        <>
            <Typography variant="h2">{maps.controller || 'No controller chosen'}</Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                {maps.controller ? 'It holds at most:' : 'Choose one at station 2 and its sizes are kept here.'}
            </Typography>
            {Object.entries(maps.limits).map(([name, most]) => (
                <Typography key={name} variant="body2">
                    {vocabulary.axes.find((axis) => axis.name === name)?.title ?? name}: {most} breakpoints
                </Typography>
            ))}
        </>
    );
}

/** Old breakpoints above the line, new ones below it. */
function AxisRuler({ points, next }: { points: readonly number[]; next: readonly number[] | null }) {
    const all = [...points, ...(next ?? [])];
    const low = Math.min(...all);
    const span = Math.max(...all) - low || 1;
    const x = (value: number) => 4 + (592 * (value - low)) / span;
    return (
        <Box component="svg" viewBox="0 0 600 22" aria-hidden sx={{ width: '100%', height: 20, display: 'block' }} preserveAspectRatio="none">
            <line x1={0} x2={600} y1={11} y2={11} stroke="var(--mui-palette-divider)" strokeWidth={1} />
            {points.map((point) => (
                <line key={point} x1={x(point)} x2={x(point)} y1={3} y2={11} stroke="var(--mui-palette-ink-main)" strokeWidth={2} />
            ))}
            {(next ?? []).map((point, i) => (
                <line key={`${point}${i}`} x1={x(point)} x2={x(point)} y1={11} y2={20} stroke="var(--mui-palette-primary-main)" strokeWidth={2} />
            ))}
        </Box>
    );
}
