import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { useJob } from '../jobContext';
import { LogCursor, type Place } from './LogCursor';

const EXPORTS = [
    ['csv', 'CSV'],
    ['json', 'JSON'],
    ['workbook', 'workbook'],
] as const;

/** A log over the table, and the table as a file. */
export function BenchFoot({ table, axes, revision, onPlace }: { table: string; axes: Schemas['TableOut']['axes']; revision: number; onPlace: (place: Place | null) => void }) {
    const { job } = useJob();
    return (
        <Stack direction="row" sx={{ mt: 1, gap: 1, alignItems: 'center', flexWrap: 'wrap', justifyContent: 'space-between' }}>
            <LogCursor axes={axes} onPlace={onPlace} />
            <Typography variant="body2" component="span">
                This table of revision {revision}:{' '}
                {EXPORTS.map(([format, word]) => (
                    <Box component="a" key={format} href={`/api/jobs/${job.id}/export?format=${format}&revision=${revision}&table=${table}`} download sx={{ ml: 1 }}>
                        {word}
                    </Box>
                ))}
            </Typography>
        </Stack>
    );
}

/** Asks for a value to jump to. */
export function JumpField({ text, unit, onText, onJump, onLeave }: { text: string; unit: string; onText: (text: string) => void; onJump: () => void; onLeave: () => void }) {
    return (
        <TextField
            label={`Go to the cell nearest to (${unit})`}
            autoFocus
            value={text}
            onChange={(event) => onText(event.target.value)}
            onKeyDown={(event) => {
                if (event.key === 'Enter') onJump();
                if (event.key === 'Escape') onLeave();
            }}
            sx={{ mb: 1, width: 300 }}
        />
    );
}
