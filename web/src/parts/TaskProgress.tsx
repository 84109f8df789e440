import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';

import type { Task } from '../api/tasks';

interface Props {
    task: { isPending: boolean; isCancelled: boolean; progress: Task | null; cancel: () => void };
    label: string;
}

/** How far long work is, and a way to cancel it. */
export function TaskProgress({ task, label }: Props) {
    if (task.isCancelled) return <Typography variant="body2">Cancelled; nothing was written.</Typography>;
    if (!task.isPending) return null;
    return (
        <>
            <Box sx={{ flex: 1, maxWidth: 320 }}>
                <Typography variant="body2">{task.progress?.sentence || 'It begins'} …</Typography>
                <LinearProgress variant="determinate" value={100 * (task.progress?.share ?? 0)} aria-label={label} />
            </Box>
            <Button onClick={task.cancel}>Cancel</Button>
        </>
    );
}
