import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import InputAdornment from '@mui/material/InputAdornment';
import MenuItem from '@mui/material/MenuItem';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { memo, useRef, useEffect } from 'react';

import type { Schemas } from '../../api/client';
import { useJob } from '../jobContext';
import { inUnits } from '../../units/said';
import { AMOUNT_OF, OPERATION_KEYS, type Operation } from './operations';

export interface Pending {
    /** An operation that is being set up, or a paste that waits for a yes. */
    operation: Operation | 'paste';
    amount: string;
    text?: string;
}

interface Props {
    operations: Schemas['OperationOut'][];
    pending: Pending | null;
    unit: string;
    cells: number;
    sentence: string;
    sentences: readonly string[];
    error: string;
    count: number;
    onChange: (pending: Pending | null) => void;
    onDo: () => void;
    onDone: () => void;
    onNudge: (percent: number) => void;
}

/** Says what will happen before it happens; nothing is done without Enter or the button. */
export const OperationBar = memo(function OperationBar(props: Props) {
    const { operations, pending, unit, cells, sentence, sentences, error, count, onChange, onDo, onDone, onNudge } = props;
    const { job } = useJob();
    const amount = useRef<HTMLInputElement>(null);
    const kind = pending && pending.operation !== 'paste' ? AMOUNT_OF[pending.operation] : undefined;
    const operation = pending?.operation;
    useEffect(() => {
        if (kind) amount.current?.focus();
    }, [operation, kind]);
    const take = (key: string) => onChange(key ? { operation: key as Operation, amount: key === 'smooth' ? '50' : '' } : null);
    return (
        <Box role="group" aria-label="Operation" sx={{ border: 1, borderColor: pending ? 'primary.main' : 'divider', bgcolor: 'background.paper', px: 1, py: 0.75, mb: 1 }}>
            <Stack direction="row" sx={{ gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
                <TextField
                    select
                    label={`Do to ${cells === 1 ? 'the cell' : `${cells} cells`}`}
                    value={pending?.operation ?? ''}
                    onChange={(event) => take(event.target.value)}
                    sx={{ width: 222 }}
                >
                    {operations.map(({ key, title }) => (
                        <MenuItem key={key} value={key}>
                            {title}
                            <Box component="span" sx={{ ml: 'auto', pl: 2, color: 'text.secondary' }}>
                                {OPERATION_KEYS[key as Operation]}
                            </Box>
                        </MenuItem>
                    ))}
                    {pending?.operation === 'paste' && <MenuItem value="paste">paste</MenuItem>}
                </TextField>
                {kind && (
                    <TextField
                        label={kind === 'percent' ? 'By' : kind === 'share' ? 'How far' : 'Amount'}
                        inputRef={amount}
                        value={pending?.amount ?? ''}
                        onChange={(event) => pending && onChange({ ...pending, amount: event.target.value })}
                        onKeyDown={(event) => {
                            if (event.key === 'Enter') {
                                event.preventDefault();
                                onDo();
                            } else if (event.key === 'Escape') {
                                onChange(null);
                                onDone();
                            }
                        }}
                        slotProps={{
                            htmlInput: { inputMode: 'decimal', autoComplete: 'off', style: { textAlign: 'right' } },
                            input: { endAdornment: <InputAdornment position="end">{kind === 'value' ? unit : '%'}</InputAdornment> },
                        }}
                        sx={{ width: 130 }}
                    />
                )}
                {pending ? (
                    <>
                        <Button variant="contained" onClick={onDo} disabled={count === 0} sx={{ flex: 'none' }}>
                            Do it
                        </Button>
                        <Button
                            onClick={() => {
                                onChange(null);
                                onDone();
                            }}
                            sx={{ flex: 'none' }}
                        >
                            Leave it
                        </Button>
                    </>
                ) : (
                    <Stack direction="row" sx={{ gap: 0.5, alignItems: 'center' }}>
                        {[-10, -5, 5, 10].map((percent) => (
                            <Button key={percent} size="small" variant="outlined" onClick={() => onNudge(percent)} sx={{ minWidth: 58, px: 0.5 }}>
                                {percent > 0 ? '+' : '−'}
                                {Math.abs(percent)} %
                            </Button>
                        ))}
                    </Stack>
                )}
                <Typography role="status" aria-label="What will happen" sx={{ flex: '1 1 220px', minWidth: 0, fontWeight: pending ? 650 : 400, color: error ? 'error.main' : 'text.primary' }}>
                    {inUnits(error || sentence, job.units)}
                </Typography>
            </Stack>
            {sentences.map((text) => (
                <Typography key={text} variant="body2" sx={{ mt: 0.5 }}>
                    {text}
                </Typography>
            ))}
        </Box>
    );
});
