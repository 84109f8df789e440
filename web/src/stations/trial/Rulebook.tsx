import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';

import { useJob } from '../../parts/jobContext';

interface Props {
    open: boolean;
    /** Rule that gave the advice. */
    here: string;
    onClose: () => void;
}

/** Every rule in the order in which it is asked: nothing about the advice is hidden. */
export function Rulebook({ open, here, onClose }: Props) {
    const { vocabulary } = useJob();
    const titles = Object.fromEntries(vocabulary.tables.map((table) => [table.key, table.title]));
    return (
        <Dialog open={open} onClose={onClose} maxWidth="md" aria-labelledby="rulebook-title">
            <DialogTitle id="rulebook-title">Rulebook of starting</DialogTitle>
            <DialogContent tabIndex={0}>
                <Typography sx={{ mb: 1 }}>
                    Asked from top to bottom; the first that applies is the advice, the others wait. Common
                    practice of the trade.
                </Typography>
                {vocabulary.rules.map((rule) => (
                    <Box
                        key={rule.identifier}
                        sx={{
                            py: 1,
                            pl: 1.25,
                            borderTop: 1,
                            borderColor: 'divider',
                            borderLeft: 4,
                            borderLeftColor: rule.identifier === here ? 'primary.main' : 'transparent',
                        }}
                    >
                        <Typography variant="h3">
                            {rule.table ? (titles[rule.table] ?? rule.table) : 'Before any table'}: {rule.condition}
                        </Typography>
                        <Typography variant="body2">
                            {rule.why} <b>Wrong if:</b> {rule.disproof} {rule.school} ({rule.identifier})
                        </Typography>
                    </Box>
                ))}
            </DialogContent>
            <DialogActions>
                <Button onClick={onClose} autoFocus>
                    Close
                </Button>
            </DialogActions>
        </Dialog>
    );
}
