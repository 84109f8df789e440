import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import { PROVENANCE_WORDS, type ProvenanceKind } from '../../parts/provenance';
import { ProvenanceMark } from '../../parts/ProvenanceMark';

/** What the marks of origin mean. */
export function Legend() {
    return (
        <Box sx={{ display: { xs: 'none', lg: 'flex' }, gap: 1.5, flexWrap: 'wrap', justifyContent: 'flex-end' }}>
            {(Object.keys(PROVENANCE_WORDS) as ProvenanceKind[]).map((kind) => (
                <Box key={kind} sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
                    <ProvenanceMark kind={kind} />
                    <Typography variant="caption">{PROVENANCE_WORDS[kind]}</Typography>
                </Box>
            ))}
        </Box>
    );
}
