import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';

import { Loading } from '../../parts/Loading';
import { idleRulesQuery } from './api';

/** The rules as they stand: when, then, why, and what would show them wrong. */
export function RulesSheet() {
    const rules = useQuery(idleRulesQuery);
    if (!rules.data) return <Loading what="Opening the rules" />;
    return (
        <>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Rules of the hot idle
            </Typography>
            {rules.data.map((rule) => (
                <Box key={rule.identifier} sx={{ borderTop: 1, borderColor: 'divider', py: 1.25, maxWidth: 760 }}>
                    <Typography>
                        When {rule.when}: <b>{rule.then}</b>.
                    </Typography>
                    <Typography variant="body2">
                        Because {rule.because}. {rule.school === 'all' ? '' : `The ${rule.school} school. `}Wrong here if {rule.disproof}.
                    </Typography>
                </Box>
            ))}
        </>
    );
}
