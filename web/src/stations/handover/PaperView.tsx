import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { inUnits } from '../../units/said';
import { Drawn } from './Drawn';

const SHADES: Record<string, string> = { proven: 'primary.main', likely: 'primary.light', open: 'text.disabled', extrapolated: 'divider' };

/** A paper as a page: what is said first, then its sections. */
export function PaperView({ paper }: { paper: Schemas['Paper'] }) {
    const { job } = useJob();
    const say = (text: string) => inUnits(text, job.units);
    return (
        <Box component="article" aria-label={paper.title} sx={{ maxWidth: 900 }}>
            <Typography variant="h1" sx={{ mb: 1 }}>
                {paper.title}
            </Typography>
            <Box role={paper.is_proven ? 'status' : 'alert'} sx={{ border: paper.is_proven ? 1 : 3, borderColor: paper.is_proven ? 'divider' : 'error.main', bgcolor: 'background.paper', p: 1.5, mb: 2 }}>
                <Typography sx={{ fontSize: '1.15rem', fontWeight: 650 }}>{say(paper.head)}</Typography>
            </Box>
            {paper.sections.map((section) => (
                <Box key={section.title} component="section" aria-label={section.title} sx={{ mb: 2.5 }}>
                    <Typography variant="h2" sx={{ mb: 0.5 }}>
                        {section.title}
                    </Typography>
                    {section.paragraphs.filter(Boolean).map((text) => (
                        <Typography key={text} sx={{ mb: 0.5 }}>
                            {say(text)}
                        </Typography>
                    ))}
                    {section.grid && <Rows title={section.title} grid={section.grid} say={say} />}
                    {section.figure && <Bars figure={section.figure} say={say} />}
                    <Drawn section={section} />
                </Box>
            ))}
        </Box>
    );
}

interface Say {
    say: (text: string) => string;
}

function Rows({ title, grid, say }: Say & { title: string; grid: Schemas['Grid'] }) {
    const cell = { borderTop: 1, borderColor: 'divider', py: 0.5, pr: 1.5, textAlign: 'left', verticalAlign: 'top' } as const;
    if (!grid.rows.length) return <Typography variant="body2">None.</Typography>;
    return (
        <Box sx={{ overflowX: 'auto' }} tabIndex={0} role="region" aria-label={`${title}, table`}>
            <Box component="table" sx={{ borderCollapse: 'collapse', width: '100%' }}>
                <thead>
                    <tr>
                        {grid.heads.map((head) => (
                            <Box component="th" scope="col" key={head} sx={{ ...cell, borderTop: 0, color: 'text.secondary' }}>
                                {head}
                            </Box>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {grid.rows.map((row, i) => (
                        <tr key={i}>
                            {row.map((text, j) => (
                                <Box component="td" key={j} sx={cell}>
                                    <Typography variant="body2">{say(text)}</Typography>
                                </Box>
                            ))}
                        </tr>
                    ))}
                </tbody>
            </Box>
        </Box>
    );
}

/** Shares as bars, each with its word: the shade alone says nothing. */
function Bars({ figure, say }: Say & { figure: Schemas['Figure'] }) {
    return (
        <Box sx={{ mt: 1 }}>
            {figure.labels.map((label, i) => {
                const percent = Math.round(100 * (figure.shares[i] ?? 0));
                const word = figure.words[i] ?? '';
                return (
                    <Box key={label} sx={{ display: 'grid', gridTemplateColumns: '80px minmax(0, 1fr) 170px', gap: 1.5, alignItems: 'center', py: 0.25 }}>
                        <Typography variant="body2" sx={{ textAlign: 'right' }}>
                            {say(label)}
                        </Typography>
                        <Box sx={{ height: 14, border: 1, borderColor: 'divider' }}>
                            <Box sx={{ width: `${percent}%`, height: '100%', bgcolor: SHADES[word] ?? 'divider' }} />
                        </Box>
                        <Typography variant="body2">
                            {percent} %, {word}
                        </Typography>
                    </Box>
                );
            })}
        </Box>
    );
}
