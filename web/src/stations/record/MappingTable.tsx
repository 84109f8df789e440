import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';

import { inUnits } from '../../units/said';
import type { Choice, Preview } from './preview';

interface MappingProps {
    preview: Preview;
    onChange: (column: string, choice: Choice) => void;
}

/** How every column is read and why; nothing is dropped in silence. */
export function MappingTable({ preview, onChange }: MappingProps) {
    const titles = Object.fromEntries(preview.known_channels.map((channel) => [channel.name, channel.title]));
    return (
        <Box>
            {preview.remembered && (
                <Typography variant="body2" gutterBottom>
                    Read as you confirmed for the last file of this kind.
                </Typography>
            )}
            {preview.missing.length > 0 && (
                <Alert severity="warning" variant="outlined" sx={{ mb: 1, color: 'text.primary' }}>
                    Say which column is {preview.missing.map((name) => (titles[name] ?? name).toLowerCase()).join(' and which is ')}.
                </Alert>
            )}
            {preview.problems.map((sentence) => (
                <Typography key={sentence} variant="body2">
                    {inUnits(sentence)}
                </Typography>
            ))}
            <Box
                tabIndex={0}
                role="region"
                aria-label="How the columns are read"
                sx={{ maxHeight: 312, overflow: 'auto', border: 1, borderColor: 'divider', bgcolor: 'background.paper', mt: 1 }}
            >
                <Box component="table" sx={{ width: '100%', borderCollapse: 'collapse', '& td, & th': { p: 0.75, textAlign: 'left', borderBottom: 1, borderColor: 'divider' } }}>
                    <thead>
                        <tr>
                            <th scope="col">Column in the file</th>
                            <th scope="col">is read as</th>
                            <th scope="col">in</th>
                            <th scope="col">because</th>
                        </tr>
                    </thead>
                    <tbody>
                        {preview.uses.map((use, number) => (
                            <tr key={`${number}-${use.column}`}>
                                <td>{use.column || '(no name)'}</td>
                                <td>
                                    <TextField
                                        select
                                        value={use.channel ?? ''}
                                        onChange={(event) => onChange(use.column, event.target.value || null)}
                                        sx={{ minWidth: 190 }}
                                        slotProps={{
                                            select: { displayEmpty: true },
                                            htmlInput: { 'aria-label': `${use.column} is read as` },
                                        }}
                                    >
                                        <MenuItem value="">not read</MenuItem>
                                        {preview.known_channels.map((channel) => (
                                            <MenuItem key={channel.name} value={channel.name}>
                                                {channel.title}
                                            </MenuItem>
                                        ))}
                                    </TextField>
                                </td>
                                <td>
                                    <UnitChoice use={use} channels={preview.known_channels} onChange={onChange} />
                                </td>
                                <td>
                                    <Typography variant="body2">{use.reason}</Typography>
                                </td>
                            </tr>
                        ))}
                    </tbody>
                </Box>
            </Box>
        </Box>
    );
}

interface UnitChoiceProps {
    use: Preview['uses'][number];
    channels: Preview['known_channels'];
    onChange: (column: string, choice: Choice) => void;
}

/** The unit of a column, to be corrected where the file does not say it. */
function UnitChoice({ use, channels, onChange }: UnitChoiceProps) {
    const offered = channels.find((channel) => channel.name === use.channel)?.offered_units ?? [];
    if (!use.channel || !use.read_unit) return null;
    if (offered.length < 2) return <>{use.read_unit}</>;
    return (
        <TextField
            select
            value={use.read_unit}
            onChange={(event) => onChange(use.column, { channel: use.channel ?? '', unit: event.target.value })}
            sx={{ minWidth: 92 }}
            slotProps={{ htmlInput: { 'aria-label': `Unit of ${use.column}` } }}
        >
            {offered.map((unit) => (
                <MenuItem key={unit} value={unit}>
                    {unit}
                </MenuItem>
            ))}
        </TextField>
    );
}
