import InputAdornment from '@mui/material/InputAdornment';
import TextField from '@mui/material/TextField';

interface Props {
    label: string;
    unit?: string;
    value: string;
    onChange: (text: string) => void;
    error?: string | undefined;
    help?: string;
    required?: boolean;
    placeholder?: string;
}

/** A number as text, so that a half-typed one is never lost; decimal comma accepted. */
export function NumberField({ label, unit, value, onChange, error, help, required, placeholder }: Props) {
    return (
        <TextField
            label={label}
            value={value}
            onChange={(event) => onChange(event.target.value)}
            error={Boolean(error)}
            helperText={error ?? help}
            required={required ?? false}
            placeholder={placeholder}
            fullWidth
            slotProps={{
                htmlInput: { inputMode: 'decimal', autoComplete: 'off', style: { textAlign: 'right' } },
                input: unit ? { endAdornment: <InputAdornment position="end">{unit}</InputAdornment> } : {},
                inputLabel: placeholder ? { shrink: true } : {},
            }}
        />
    );
}
