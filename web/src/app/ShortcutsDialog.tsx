import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';

import { SHORTCUTS } from './shortcuts';
import { mono } from './theme';

export function ShortcutsDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
    return (
        <Dialog open={open} onClose={onClose} aria-labelledby="shortcuts-title">
            <DialogTitle id="shortcuts-title">By keyboard</DialogTitle>
            <DialogContent>
                <Stack spacing={2}>
                    {SHORTCUTS.map((group) => (
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
