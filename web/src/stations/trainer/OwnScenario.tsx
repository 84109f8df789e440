import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import { mono } from '../../parts/theme';

interface Props {
    example: unknown;
    isBusy: boolean;
    onPlay: (scenario: string) => void;
}

/** A scenario of one's own, as open JSON; one that ships is the pattern. */
export function OwnScenario({ example, isBusy, onPlay }: Props) {
    const [text, setText] = useState('');
    return (
        <Box sx={{ mt: 3 }}>
            <Typography variant="h2">A scenario of your own</Typography>
            <TextField
                label="Scenario, JSON"
                multiline
                fullWidth
                minRows={3}
                maxRows={18}
                value={text}
                onChange={(event) => setText(event.target.value)}
                slotProps={{ input: { sx: { fontFamily: mono, fontSize: '0.88rem' } } }}
                sx={{ my: 1 }}
            />
            <Button variant="outlined" disabled={isBusy || text.trim() === ''} onClick={() => onPlay(text)} sx={{ mr: 1 }}>
                Play it
            </Button>
            <Button onClick={() => setText(JSON.stringify(example, null, 2))}>Begin from one that ships</Button>
        </Box>
    );
}
