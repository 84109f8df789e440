import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../api/client';
import { useJob } from './jobContext';
import { mono } from './theme';
import { inUnits } from '../units/said';
import { shownUnit } from '../units/units';
import { ProblemNote } from './ProblemNote';
import { useQuantityText } from './quantity';

export type Row = (number | null)[];

export interface Column {
    title: string;
    /** Canonical unit; empty for none. */
    unit: string;
}

interface Props {
    title: string;
    columns: Column[];
    rows: Row[];
    onChange: (rows: Row[]) => void;
    /** What the server reads pasted text as; without it nothing can be pasted. */
    purpose?: string;
    error?: string | undefined;
    /** Rows that are numbered and neither added nor removed. */
    fixed?: boolean;
}

/** A small table of numbers: typed, or pasted from a sheet; one empty row waits at the end. */
export function PointGrid({ title, columns, rows, onChange, purpose, error, fixed = false }: Props) {
    const { job } = useJob();
    const [isPasting, setPasting] = useState(false);
    const [text, setText] = useState('');
    const empty: Row = columns.map(() => null);
    const shown = fixed ? rows : [...rows, empty];
    const read = useMutation({
        mutationFn: ({ pasted, factors }: { pasted: string; factors?: Record<string, number> }) =>
            unwrap(client.POST('/api/pasted', { body: { purpose: purpose ?? '', text: pasted, factors: factors ?? {} } })),
        onSuccess: (answer) => {
            onChange(answer.rows);
            setPasting(false);
            setText('');
        },
    });
    const set = (row: number, column: number, value: number | null) => {
        const next = shown.map((entry, i) => (i === row ? entry.map((old, j) => (j === column ? value : old)) : entry));
        onChange(fixed ? next : next.filter((entry) => entry.some((cell) => cell !== null)));
    };
    return (
        <Box role="group" aria-label={title} sx={{ minWidth: 0 }}>
            <Stack direction="row" sx={{ alignItems: 'baseline', mb: 0.5, gap: 1 }}>
                <Typography variant="h3" component="div" sx={{ flex: 1 }}>
                    {title}
                </Typography>
                {purpose && (
                    <Button size="small" onClick={() => setPasting(!isPasting)}>
                        {isPasting ? 'Close' : 'Paste a table'}
                    </Button>
                )}
            </Stack>
            {isPasting && (
                <Stack spacing={1} sx={{ mb: 1 }}>
                    <TextField
                        label={`Table to paste: ${columns.map((column) => column.title.toLowerCase()).join(', ')}`}
                        value={text}
                        onChange={(event) => setText(event.target.value)}
                        multiline
                        minRows={3}
                        maxRows={8}
                        autoFocus
                        fullWidth
                    />
                    <Button variant="outlined" disabled={!text.trim() || read.isPending} onClick={() => read.mutate({ pasted: text })}>
                        Read it
                    </Button>
                </Stack>
            )}
            {read.data && !isPasting && read.data.doubts.length > 0 && (
                <Doubts
                    doubts={read.data.doubts}
                    onAnswer={(column, factor) => read.variables && read.mutate({ pasted: read.variables.pasted, factors: { ...read.variables.factors, [column]: factor } })}
                />
            )}
            {read.error && <ProblemNote error={read.error} />}
            {read.data && !isPasting && (
                <Typography variant="caption" component="p" role="status" sx={{ mb: 0.5 }}>
                    {read.data.sentences.map((sentence) => inUnits(sentence)).join(' ')}
                </Typography>
            )}
            <Box component="table" sx={{ borderCollapse: 'collapse', width: '100%', tableLayout: 'fixed' }}>
                <thead>
                    <tr>
                        <Box component="th" sx={{ width: 26 }} />
                        {columns.map((column) => (
                            <Box component="th" key={column.title} sx={{ textAlign: 'right', fontSize: '0.86rem', fontWeight: 600, p: 0.5, color: 'text.secondary' }}>
                                {column.title}
                                {column.unit && `, ${shownUnit(column.unit, job.units)}`}
                            </Box>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {shown.map((row, i) => (
                        <tr key={i}>
                            <Box component="td" sx={{ fontFamily: mono, fontSize: '0.8rem', color: 'text.secondary', textAlign: 'right', pr: 0.75 }}>
                                {i + 1}
                            </Box>
                            {columns.map((column, j) => (
                                <Box component="td" key={column.title} sx={{ p: 0 }}>
                                    <Cell
                                        label={`${column.title} ${i + 1}`}
                                        unit={column.unit}
                                        value={row[j]}
                                        onChange={(value) => set(i, j, value)}
                                        onPaste={purpose ? (pasted) => read.mutate({ pasted }) : undefined}
                                    />
                                </Box>
                            ))}
                        </tr>
                    ))}
                </tbody>
            </Box>
            {error && (
                <Typography variant="body2" role="alert" sx={{ color: 'error.main', mt: 0.5 }}>
                    {inUnits(error)}
                </Typography>
            )}
        </Box>
    );
}

interface DoubtsProps {
    doubts: Schemas['DoubtOut'][];
    onAnswer: (column: string, factor: number) => void;
}

/** What a pasted table may have meant otherwise: asked, never guessed. */
function Doubts({ doubts, onAnswer }: DoubtsProps) {
    return doubts.map((doubt) => (
        <Box key={doubt.column} role="alert" sx={{ borderLeft: 4, borderColor: 'warning.main', pl: 1, my: 0.75 }}>
            <Typography variant="body2">{inUnits(doubt.sentence)}</Typography>
            <Stack direction="row" sx={{ gap: 1, mt: 0.5 }}>
                <Button size="small" variant="outlined" onClick={() => onAnswer(doubt.column, doubt.factor)}>
                    Yes, × {doubt.factor}
                </Button>
                <Button size="small" onClick={() => onAnswer(doubt.column, 1)}>
                    No, as it was read
                </Button>
            </Stack>
        </Box>
    ));
}

interface CellProps {
    label: string;
    unit: string;
    value: number | null | undefined;
    onChange: (value: number | null) => void;
    onPaste?: ((text: string) => void) | undefined;
}

function Cell({ label, unit, value, onChange, onPaste }: CellProps) {
    const { job } = useJob();
    const field = useQuantityText(value, unit, job.units, onChange);
    return (
        <Box
            component="input"
            aria-label={label}
            aria-invalid={field.isNonsense}
            inputMode="decimal"
            autoComplete="off"
            value={field.text}
            onChange={(event) => field.type(event.target.value)}
            onPaste={(event) => {
                const text = event.clipboardData.getData('text');
                // More than one number is a table.
                if (!onPaste || !/[\t\n;]/.test(text.trim())) return;
                event.preventDefault();
                onPaste(text);
            }}
            sx={{
                width: '100%',
                boxSizing: 'border-box',
                font: 'inherit',
                fontFamily: mono,
                fontSize: '0.95rem',
                textAlign: 'right',
                color: field.isNonsense ? 'error.main' : 'text.primary',
                bgcolor: 'background.paper',
                border: 1,
                borderColor: field.isNonsense ? 'error.main' : 'divider',
                borderRadius: 0,
                px: 1,
                py: 0.6,
                '&:focus': { outline: '2px solid', outlineColor: 'primary.main', outlineOffset: -2 },
            }}
        />
    );
}
