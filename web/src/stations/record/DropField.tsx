import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import { useJob } from '../../parts/jobContext';

/** Where a log is dropped or chosen; nothing is saved by that. */
export function DropField({ onFile, fileName }: { onFile: (file: File | undefined) => void; fileName: string }) {
    const { vocabulary } = useJob();
    const [over, setOver] = useState(false);
    return (
        <Box
            component="label"
            onDragOver={(event) => {
                event.preventDefault();
                setOver(true);
            }}
            onDragLeave={() => setOver(false)}
            onDrop={(event) => {
                event.preventDefault();
                setOver(false);
                onFile(event.dataTransfer.files[0]);
            }}
            sx={{
                display: 'block',
                p: fileName ? 1.25 : 3,
                textAlign: 'center',
                border: '2px dashed',
                borderColor: over ? 'primary.main' : 'ink.rule',
                bgcolor: 'background.paper',
                cursor: 'pointer',
                '&:focus-within': { borderColor: 'primary.main' },
            }}
        >
            <Typography sx={{ fontWeight: 650 }}>{fileName || 'Drop the log here, or choose a file'}</Typography>
            {!fileName && (
                <Typography variant="body2" color="text.secondary">
                    CSV text of any controller or logger, an MDF measurement file, or a bus log with its DBC, up to {Math.round(vocabulary.limits.log_bytes / 1e6)} MB.
                    Nothing is saved before you have seen how it is read.
                </Typography>
            )}
            <input
                type="file"
                aria-label="Log file"
                accept=".csv,.txt,.log,.tsv,.mf4,.mdf,.dat,.asc,.blf,text/*"
                onChange={(event) => {
                    onFile(event.target.files?.[0]);
                    event.target.value = '';
                }}
                style={{ position: 'absolute', width: 1, height: 1, opacity: 0 }}
            />
        </Box>
    );
}
