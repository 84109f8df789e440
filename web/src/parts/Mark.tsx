import Box from '@mui/material/Box';

export type State = 'pass' | 'suspicious' | 'fail' | 'not_read';

const WORDS: Record<State, string> = {
    pass: 'passes',
    suspicious: 'suspicious',
    fail: 'fails',
    not_read: 'not read',
};
const COLOURS: Record<State, string> = {
    pass: 'primary.main',
    suspicious: 'warning.main',
    fail: 'error.main',
    not_read: 'error.main',
};

/** A verdict as shape, colour and word: none of the three has to be seen alone. */
export function Mark({ state, word = true }: { state: State; word?: boolean }) {
    return (
        <Box
            component="span"
            sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.75, color: COLOURS[state], fontWeight: 650, whiteSpace: 'nowrap' }}
        >
            <svg width="18" height="18" viewBox="0 0 20 20" fill="none" stroke="currentColor" strokeWidth="2.4" aria-hidden={word} role={word ? undefined : 'img'} aria-label={word ? undefined : WORDS[state]}>
                {state === 'pass' && <path d="M4 10.5 8.2 15 16 5.5" />}
                {state === 'suspicious' && <path d="M4 12c2.5-5 5.5 3 8-1.5M4 17h12" />}
                {state === 'fail' && <path d="M5 5 15 15M15 5 5 15" />}
                {state === 'not_read' && <path d="M3 10h5M12 10h5" />}
            </svg>
            {word && WORDS[state]}
        </Box>
    );
}
