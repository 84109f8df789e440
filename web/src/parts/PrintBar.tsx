import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import { Link } from 'react-router';

/** Above a sheet that is made for paper: print it, or go back. It is not printed itself. */
export function PrintBar({ to, back }: { to: string; back: string }) {
    return (
        <Stack direction="row" className="no-print" sx={{ gap: 1.5, mb: 2 }}>
            <Button variant="contained" onClick={() => window.print()}>
                Print
            </Button>
            <Button component={Link} to={to}>
                {back}
            </Button>
        </Stack>
    );
}
