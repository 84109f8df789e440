import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';

interface Props {
    label: string;
    value: string;
    onChange: (value: string) => void;
    options: Record<string, string>;
    width?: number;
    error?: string | undefined;
    help?: string;
}

/** One of a few. */
export function Choice({ label, value, onChange, options, width, error, help }: Props) {
    return (
        <TextField
            select
            label={label}
            value={value}
            onChange={(event) => onChange(event.target.value)}
            error={Boolean(error)}
            helperText={error ?? help}
            sx={width ? { width } : {}}
        >
            {Object.entries(options).map(([key, text]) => (
                <MenuItem key={key} value={key}>
                    {text}
                </MenuItem>
            ))}
        </TextField>
    );
}
