import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';

import { STATIONS } from '../stations/registry';
import { mono } from '../parts/theme';

/** Everything that can be done by keyboard. */
function groups() {
    const spoken = (keys: string) => keys.replace(' ', ' then ');
    const ways = STATIONS.flatMap((station) => station.ways);
    const everywhere = [
        { keys: '?', does: 'show this list' },
        { keys: 'g then o', does: 'go to the order of work' },
        ...ways.map(({ keys, does }) => ({ keys: spoken(keys), does })),
        { keys: 'g then t', does: 'go to the newest trial' },
        { keys: 'n', does: 'do the next action' },
    ];
    return [
        { where: 'Everywhere in a job', keys: everywhere },
        ...STATIONS.flatMap((station) => (station.keyboard ? [station.keyboard] : [])),
    ];
}

export function ShortcutsDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
    return (
        <Dialog open={open} onClose={onClose} aria-labelledby="shortcuts-title">
            <DialogTitle id="shortcuts-title">By keyboard</DialogTitle>
            <DialogContent>
                <Stack spacing={2}>
                    {groups().map((group) => (
                        <Stack key={group.where} spacing={0.5}>
                            <Typography variant="h3">{group.where}</Typography>
                            {group.keys.map((shortcut) => (
                                <Stack key={shortcut.keys} direction="row" spacing={2}>
                                    <Typography sx={{ fontFamily: mono, width: 170, flex: 'none' }}>
                                        {shortcut.keys}
                                    </Typography>
                                    <Typography>{shortcut.does}</Typography>
                                </Stack>
                            ))}
                        </Stack>
                    ))}
                </Stack>
            </DialogContent>
            <DialogActions>
                <Button onClick={onClose} autoFocus>
                    Close
                </Button>
            </DialogActions>
        </Dialog>
    );
}
