import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { ProblemNote } from './ProblemNote';

interface Props {
    title: string;
    label: string;
    button: string;
    pending: boolean;
    error: Error | null;
    onWrite: (text: string) => void;
}

/** Going on without what a gate asks for takes a sentence that stays in the record. */
export function ReasonBox({ title, label, button, pending, error, onWrite }: Props) {
    const [isOpen, setOpen] = useState(false);
    const [text, setText] = useState('');
    if (!isOpen) {
        return (
            <Button size="small" onClick={() => setOpen(true)}>
                {title} …
            </Button>
        );
    }
    return (
        <Box sx={{ maxWidth: 640 }}>
            <Stack direction={{ xs: 'column', sm: 'row' }} sx={{ gap: 1 }}>
                <TextField label={label} value={text} onChange={(event) => setText(event.target.value)} sx={{ flex: 1 }} autoFocus />
                <Button variant="outlined" disabled={pending || !text.trim()} onClick={() => onWrite(text)}>
                    {button}
                </Button>
                <Button onClick={() => setOpen(false)}>Cancel</Button>
            </Stack>
            {error && <ProblemNote error={error} />}
        </Box>
    );
}
