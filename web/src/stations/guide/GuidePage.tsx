import Box from '@mui/material/Box';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { queryOptions, useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';

const guideQuery = queryOptions({ queryKey: ['guide'], queryFn: () => unwrap(client.GET('/api/guide')), staleTime: Infinity });

/** The order of work with pictures, the glossary, and how everything is computed: searchable, offline. */
export function GuidePage() {
    const found = useQuery(guideQuery);
    const [wanted, setWanted] = useState('');
    if (!found.data) return found.error ? <ProblemNote error={found.error} /> : <Loading what="Opening the guide" />;
    const words = wanted.trim().toLowerCase().split(/\s+/).filter(Boolean);
    const has = (...texts: string[]) => words.every((word) => texts.some((text) => text.toLowerCase().includes(word)));
    const stations = found.data.stations.filter(({ title, does }) => has(title, does));
    const terms = found.data.words.filter(({ term, also, unit }) => has(term, also, unit));
    const chapters = found.data.chapters
        .map(({ title, paragraphs }) => ({ title, paragraphs: paragraphs.filter((text) => has(title, text)) }))
        .filter(({ paragraphs }) => paragraphs.length);
    return (
        <Box sx={{ p: { xs: 2, md: 4 }, width: '100%', maxWidth: 1100, mx: 'auto' }}>
            <Typography variant="h1" sx={{ mb: 1 }}>
                Guide
            </Typography>
            <TextField label="Search the guide" value={wanted} onChange={(event) => setWanted(event.target.value)} sx={{ width: 360, maxWidth: '100%', mb: 2 }} autoFocus />
            {!stations.length && !terms.length && !chapters.length && <Typography>Nothing in the guide has these words.</Typography>}
            {stations.length > 0 && <Stations stations={stations} isFound={words.length > 0} />}
            {terms.length > 0 && <Words terms={terms} />}
            {chapters.map(({ title, paragraphs }) => (
                <Box key={title} component="section" aria-label={title} sx={{ mb: 2 }}>
                    <Typography variant="h2" sx={{ mb: 0.5 }}>
                        How it computes: {title}
                    </Typography>
                    {paragraphs.map((text) => (
                        <Typography key={text} sx={{ mb: 0.75 }}>
                            {text}
                        </Typography>
                    ))}
                </Box>
            ))}
        </Box>
    );
}

function Stations({ stations, isFound }: { stations: Schemas['GuideStation'][]; isFound: boolean }) {
    return (
        <Box component="section" aria-label="Order of work" sx={{ mb: 3 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                The order of work
            </Typography>
            <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: { xs: '1fr', sm: 'repeat(2, minmax(0, 1fr))', md: 'repeat(3, minmax(0, 1fr))' } }}>
                {stations.map(({ number, key, title, does, picture }) => (
                    <Box key={key} sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.paper', p: 1.5 }}>
                        <Typography sx={{ fontWeight: 650 }}>
                            {number} {title}
                        </Typography>
                        <Typography variant="body2" sx={{ mb: 1 }}>
                            {does}
                        </Typography>
                        {picture && !isFound && <Box component="img" loading="lazy" src={`/api/guide/pictures/${picture}`} alt={`Station ${number}: ${title}`} sx={{ width: '100%', height: 170, objectFit: 'cover', objectPosition: 'top left', border: 1, borderColor: 'divider' }} />}
                    </Box>
                ))}
            </Box>
        </Box>
    );
}

function Words({ terms }: { terms: Schemas['Word'][] }) {
    const cell = { borderTop: 1, borderColor: 'divider', py: 0.5, pr: 2, textAlign: 'left', verticalAlign: 'top' } as const;
    return (
        <Box component="section" aria-label="Glossary" sx={{ mb: 3 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Words
            </Typography>
            <Box component="table" sx={{ borderCollapse: 'collapse', width: '100%' }}>
                <thead>
                    <tr>
                        {['Here', 'Also called', 'Unit or name'].map((head) => (
                            <Box component="th" scope="col" key={head} sx={{ ...cell, borderTop: 0, color: 'text.secondary' }}>
                                {head}
                            </Box>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {terms.map(({ term, also, unit }) => (
                        <tr key={`${term} ${also}`}>
                            <Box component="td" sx={{ ...cell, fontWeight: 650 }}>
                                {term}
                            </Box>
                            <Box component="td" sx={cell}>
                                {also}
                            </Box>
                            <Box component="td" sx={cell}>
                                {unit}
                            </Box>
                        </tr>
                    ))}
                </tbody>
            </Box>
        </Box>
    );
}
