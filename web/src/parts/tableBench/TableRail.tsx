import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { Link } from 'react-router';

import type { Calibration, Schemas } from '../../api/client';

const GROUPS: [Schemas['TableDefinition']['group'], string][] = [
    ['map', 'Maps'],
    ['boost', 'Boost'],
    ['start', 'Start tables'],
    ['idle', 'Idle'],
    ['transient', 'Transients'],
    ['correction', 'Corrections'],
    ['limit', 'Limits'],
    ['battery', 'Over battery voltage'],
];

interface Props {
    calibration: Calibration;
    definitions: Schemas['TableDefinition'][];
    here: string;
    base: string;
    touched: readonly string[];
}

/** Every table of the calibration; a mark says which hold changes that are not saved. */
export function TableRail({ calibration, definitions, here, base, touched }: Props) {
    const line = (key: string, text: string, isTouched: boolean) => (
        <Box component="li" key={key}>
            <Box
                component={Link}
                to={`${base}/${key}`}
                aria-current={here === key ? 'page' : undefined}
                sx={{
                    display: 'block',
                    px: 1,
                    py: 0.45,
                    fontSize: '0.9rem',
                    lineHeight: 1.2,
                    color: here === key ? 'primary.main' : 'text.primary',
                    fontWeight: here === key ? 700 : 450,
                    textDecoration: 'none',
                    borderLeft: 3,
                    borderColor: here === key ? 'primary.main' : 'transparent',
                    '&:hover': { bgcolor: 'action.hover' },
                }}
            >
                {text}
                {isTouched && (
                    <Box component="span" sx={{ color: 'primary.main', fontWeight: 700 }} title="changed, not saved" aria-label="changed, not saved">
                        {' '}
                        ●
                    </Box>
                )}
            </Box>
        </Box>
    );
    const settings = definitions.filter(({ key, group }) => group === 'setting' && calibration.settings[key]);
    return (
        <Box component="nav" aria-label="Tables" sx={{ width: 158, flex: 'none' }}>
            {GROUPS.map(([group, title]) => {
                const tables = definitions.filter((table) => table.group === group && calibration.tables[table.key]);
                if (!tables.length) return null;
                return (
                    <Box key={group} sx={{ mb: 0.75 }}>
                        <Typography variant="caption" sx={{ pl: 1, color: 'text.secondary', fontWeight: 650 }}>
                            {title}
                        </Typography>
                        <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
                            {tables.map((table) => line(table.key, shortTitle(table), touched.includes(table.key)))}
                            {group === 'limit' &&
                                settings.length > 0 &&
                                line('settings', 'Settings', settings.some(({ key }) => touched.includes(key)))}
                        </Box>
                    </Box>
                );
            })}
        </Box>
    );
}

function shortTitle(table: Schemas['TableDefinition']): string {
    return table.title.replace(', absolute', '').replace('Volumetric efficiency', 'Vol. efficiency').replace(', second cam profile', ', cam 2');
}
