import Alert from '@mui/material/Alert';

/** What can hurt somebody at this step. */
export function Caution({ children }: { children: string }) {
    return (
        <Alert severity="warning" variant="outlined" sx={{ mb: 2, color: 'text.primary', bgcolor: 'background.paper' }}>
            {children}
        </Alert>
    );
}

export const FUEL_CAUTION =
    'Fuel under pressure: keep sparks and hot parts away, have an extinguisher at hand, look and smell for leaks at every key-on, and relieve the pressure before a line is opened. Local codes and licensed practice come first.';
