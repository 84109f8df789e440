import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';

import { sessionQuery } from '../../api/vocabulary';
import { Parts } from './Parts';
import { Password } from './Password';
import { People } from './People';
import { Tokens } from './Tokens';

function OfAPerson({ isDemo, rules }: { isDemo: boolean; rules: boolean }) {
    return (
        <>
            {!isDemo && <Password />}
            <People rules={rules} />
            <Parts />
            <Tokens />
        </>
    );
}

/** Who is signed in: their password, who works with them, and the tokens their programs use. */
export function AccountPage() {
    const { data: session } = useQuery(sessionQuery);
    return (
        <Box sx={{ p: { xs: 2, md: 3 }, maxWidth: 760 }}>
            <Typography variant="h1">{session?.username ?? ''}</Typography>
            <Typography sx={{ mb: 3 }}>{session?.workshop ?? ''}</Typography>
            {session?.may_record ? <OfAPerson isDemo={session.demo} rules={session.may_rule} /> : <Typography>{session?.bounds}</Typography>}
        </Box>
    );
}
