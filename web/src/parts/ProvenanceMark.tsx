import Box from '@mui/material/Box';

import { PROVENANCE_WORDS, type ProvenanceKind } from './provenance';

/** Told by shape, never by colour: dot, square, triangle, arrow, hollow ring. */
const SHAPES: Record<ProvenanceKind, React.ReactNode> = {
    measured: <circle cx="6" cy="6" r="4.2" fill="currentColor" />,
    data_sheet: <rect x="2" y="2" width="8" height="8" fill="currentColor" />,
    calculated: <path d="M6 1.4 11 10.4H1Z" fill="currentColor" />,
    carried_over: (
        <path d="M1 6h8M6 2.4 9.8 6 6 9.6" fill="none" stroke="currentColor" strokeWidth="1.8" />
    ),
    assumed: <circle cx="6" cy="6" r="3.7" fill="none" stroke="currentColor" strokeWidth="1.7" />,
};

export function ProvenanceMark({ kind, size = 11 }: { kind: ProvenanceKind; size?: number }) {
    return (
        <Box
            component="svg"
            viewBox="0 0 12 12"
            role="img"
            aria-label={PROVENANCE_WORDS[kind]}
            sx={{ width: size, height: size, flex: 'none', color: 'ink.main' }}
        >
            {SHAPES[kind]}
        </Box>
    );
}
