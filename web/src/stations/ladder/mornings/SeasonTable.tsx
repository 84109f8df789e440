import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Mornings } from '../../../api/mornings';
import { useShown } from '../../../parts/useShown';
import { SmallTable } from '../../../parts/SmallTable';

const SHOWN = 14;

/** The coming mornings: what is expected, what each helps to prove, and whether it is worth a battery. */
export function SeasonTable({ mornings }: { mornings: Mornings }) {
    const shown = useShown();
    if (mornings.mornings.length === 0) {
        return <Typography color="text.secondary">No morning is known yet: type the minima below.</Typography>;
    }
    const rows = mornings.mornings
        .slice(0, SHOWN)
        .map((m) => [
            dayOf(m.day) + (m.forecast ? '' : ', climate'),
            shown(m.minimum_c, '°C', 0),
            m.worth ? m.serves_c.map((c) => shown(c, '°C', 0)).join(', ') || 'others' : 'rest',
            `${Math.round(100 * m.good)} %`,
        ]);
    return (
        <Box>
            <SmallTable wide title="Coming mornings" heads={['Day', 'expected', 'helps to prove', 'good']} rows={rows} foot="Good: chance with the tables in force." />
        </Box>
    );
}

function dayOf(day: string): string {
    return new Date(`${day}T12:00:00`).toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric', month: 'short' });
}
