import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import { mono } from './theme';
import { useShown } from './useShown';

export interface Fact {
    name: string;
    value: number | null | undefined;
    unit: string;
    decimals: number;
}

/** Computed figures, one to a line, with their units. */
export function Facts({ title, facts }: { title: string; facts: Fact[] }) {
    const shown = useShown();
    return (
        <Box sx={{ mb: 2 }}>
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                {title}
            </Typography>
            <Box component="dl" sx={{ m: 0, display: 'grid', gridTemplateColumns: '1fr auto', columnGap: 1.5, rowGap: 0.25 }}>
                {facts.map(({ name, value, unit, decimals }) => (
                    <Box key={name} sx={{ display: 'contents' }}>
                        <Typography component="dt" variant="body2">
                            {name}
                        </Typography>
                        <Typography component="dd" sx={{ m: 0, fontFamily: mono, fontSize: '0.93rem', textAlign: 'right' }}>
                            {value === null || value === undefined ? '–' : shown(value, unit, decimals)}
                        </Typography>
                    </Box>
                ))}
            </Box>
        </Box>
    );
}
