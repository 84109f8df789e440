import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import { mono } from './theme';

interface Props {
    title: string;
    heads: string[];
    rows: string[][];
    foot?: string;
    /** The first column holds words. */
    wide?: boolean;
}

/** A few computed figures in rows. */
export function SmallTable({ title, heads, rows, foot, wide = false }: Props) {
    const cell = { fontFamily: mono, fontSize: '0.88rem', textAlign: 'right', py: 0.25, pl: 0.75, verticalAlign: 'top' } as const;
    return (
        <Box sx={{ mb: 2 }}>
            <Typography variant="h3" component="div" sx={{ mb: 0.5 }}>
                {title}
            </Typography>
            <Box component="table" aria-label={title} sx={{ borderCollapse: 'collapse', width: '100%' }}>
                <thead>
                    <tr>
                        {heads.map((head, i) => (
                            <Box component="th" key={`${head}${i}`} sx={{ ...cell, color: 'text.secondary', fontWeight: 600, textAlign: wide && i === 0 ? 'left' : 'right', borderBottom: 1, borderColor: 'divider' }}>
                                {head}
                            </Box>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {rows.map((row) => (
                        <tr key={row.join('|')}>
                            {row.map((text, i) => (
                                <Box
                                    component="td"
                                    key={i}
                                    sx={wide && i === 0 ? { fontSize: '0.9rem', py: 0.3, lineHeight: 1.2 } : cell}
                                >
                                    {text}
                                </Box>
                            ))}
                        </tr>
                    ))}
                </tbody>
            </Box>
            {foot && <Typography variant="caption">{foot}</Typography>}
        </Box>
    );
}
