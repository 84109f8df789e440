import Box from '@mui/material/Box';

import { mono } from '../../parts/theme';

/** What the colour letters look like; the letters are always beside it. */
const LOOKS: Record<string, string> = {
    BK: '#1c1c1c', BN: '#6d4426', RD: '#c0281f', OG: '#dd7a1a', YE: '#e3c52b', GN: '#2f8a45',
    BU: '#2a5db0', VT: '#7a4a9e', GY: '#8d9297', WH: '#fbfbf7', PK: '#e79ab0', TQ: '#35a3a3',
};

/** A piece of wire with its tracer, and the letters of IEC 60757. */
export function Swatch({ colour }: { colour: string }) {
    const [base = '', tracer] = colour.split('-');
    return (
        <Box component="span" sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.75 }}>
            <svg width="26" height="12" aria-hidden>
                <rect x="0.5" y="1.5" width="25" height="9" rx="2" fill={LOOKS[base] ?? '#999'} stroke="currentColor" strokeWidth="0.7" />
                {tracer && <rect x="1" y="4.5" width="24" height="3" fill={LOOKS[tracer] ?? '#999'} />}
            </svg>
            <Box component="span" sx={{ fontFamily: mono, fontSize: '0.85rem' }}>
                {colour}
            </Box>
        </Box>
    );
}
