import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';

import type { Wiring, WiringLine, WiringVocabulary } from '../../api/client';
import { wiringQuery, wiringVocabularyQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { formatNumber } from '../../units/units';
import { Loading } from '../../parts/Loading';
import { PrintBar } from '../../parts/PrintBar';
import { ProblemNote } from '../../parts/ProblemNote';
import { day } from '../../parts/when';
import { grouped } from './grouped';
import { Swatch } from './Swatch';

/** The list for paper: A4 across, by connector and then by branch of the loom. */
export function PrintPage() {
    const { job } = useJob();
    const wiring = useQuery(wiringQuery(job.id));
    const words = useQuery(wiringVocabularyQuery);
    if (!wiring.data || !words.data) {
        const error = wiring.error ?? words.error;
        return error ? <ProblemNote error={error} /> : <Loading what="Setting the list" />;
    }
    return <Print wiring={wiring.data} words={words.data} />;
}

const HEADS = ['Pin', 'Function', 'Wire', 'mm²', 'AWG', 'm', 'A', 'Fuse', 'Supply, ground', 'Pull-up, active state, shield, note', 'Meter must read', '✓'];

function Print({ wiring, words }: { wiring: Wiring; words: WiringVocabulary }) {
    const { job } = useJob();
    const changed = new Set(wiring.changes.map((change) => change.key));
    const checks = new Map(wiring.checks.map((check) => [check.line, check]));
    return (
        <Box sx={{ p: 2, bgcolor: 'background.paper' }} className="print-list">
            <PrintBar to={`/jobs/${job.id}/wiring/list`} back="Back to the list" />
            <Typography variant="h1">Wiring list: {job.name}</Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                {wiring.profile.name}, {wiring.number ? `plan ${wiring.number}` : 'proposed, not saved'}.{' '}
                {wiring.signed
                    ? `Signed off by ${wiring.signed.created_by}, ${day(wiring.signed.created_at)}, as plan ${wiring.signed.plan}. `
                    : 'Not signed off. '}
                {wiring.changes.length > 0 && `△ ${wiring.changes.length} line(s) changed after the sign-off. `}
                Battery off before a plug is opened.
            </Typography>
            <Lists heading="By connector" groups={grouped(wiring.plan.lines, 'connector', wiring.profile, words)} changed={changed} checks={checks} />
            <Box className="print-break">
                <Lists heading="By branch of the loom" groups={grouped(wiring.plan.lines, 'branch', wiring.profile, words)} changed={changed} checks={checks} />
            </Box>
            <Typography variant="caption">{words.size_source}</Typography>
        </Box>
    );
}

interface ListsProps {
    heading: string;
    groups: { title: string; lines: WiringLine[] }[];
    changed: ReadonlySet<string>;
    checks: ReadonlyMap<string, Wiring['checks'][number]>;
}

function Lists({ heading, groups, changed, checks }: ListsProps) {
    const cell = { borderBottom: '1px solid', borderColor: 'divider', px: 0.5, py: 0.3, fontSize: '0.78rem', verticalAlign: 'top', textAlign: 'left' } as const;
    const figure = { ...cell, fontFamily: mono, textAlign: 'right', whiteSpace: 'nowrap' } as const;
    return (
        <>
            <Typography variant="h2" sx={{ mt: 1 }}>
                {heading}
            </Typography>
            {groups.map(({ title, lines }) => (
                <Box key={title} component="section" aria-label={`${heading}: ${title}`} sx={{ mt: 1, overflowX: 'auto' }}>
                    <Typography variant="h3">{title}</Typography>
                    <Box component="table" sx={{ borderCollapse: 'collapse', width: '100%' }}>
                        <thead>
                            <tr>
                                {HEADS.map((head) => (
                                    <Box component="th" key={head} sx={{ ...cell, fontWeight: 650 }}>
                                        {head}
                                    </Box>
                                ))}
                            </tr>
                        </thead>
                        <tbody>
                            {lines.map((line) => {
                                const check = checks.get(line.key);
                                return (
                                    <tr key={line.key}>
                                        <Box component="td" sx={{ ...cell, fontFamily: mono }}>{line.pin || '–'}</Box>
                                        <Box component="td" sx={cell}>
                                            {changed.has(line.key) && '△ '}
                                            {line.title}
                                        </Box>
                                        <Box component="td" sx={{ ...cell, whiteSpace: 'nowrap' }}>
                                            <Swatch colour={line.colour} />
                                        </Box>
                                        <Box component="td" sx={figure}>{formatNumber(line.size_mm2, 2)}</Box>
                                        <Box component="td" sx={figure}>{line.gauge}</Box>
                                        <Box component="td" sx={figure}>{formatNumber(line.length_m, 1)}</Box>
                                        <Box component="td" sx={figure}>{formatNumber(line.current_a, 2)}</Box>
                                        <Box component="td" sx={figure}>{line.fuse_a ? `${line.fuse_a} A` : '–'}</Box>
                                        <Box component="td" sx={cell}>{[line.supply, line.ground, line.relay ? 'through a relay' : ''].filter(Boolean).join('; ')}</Box>
                                        <Box component="td" sx={cell}>{[line.pull_up && `pull-up ${line.pull_up}`, line.active && `active ${line.active}`, line.protection, line.note].filter(Boolean).join('; ')}</Box>
                                        <Box component="td" sx={cell}>
                                            {line.check.lower} to {line.check.upper} {line.check.unit}. {line.check.instruction}
                                        </Box>
                                        <Box component="td" sx={{ ...cell, whiteSpace: 'nowrap' }}>
                                            {check && !check.stale ? (typeof check.reading === 'number' ? `${check.reading} ${check.unit}` : check.good ? '✓' : '✗') : '☐ ____'}
                                        </Box>
                                    </tr>
                                );
                            })}
                        </tbody>
                    </Box>
                </Box>
            ))}
        </>
    );
}
