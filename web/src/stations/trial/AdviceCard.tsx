import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import MuiLink from '@mui/material/Link';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { Link } from 'react-router';

import type { CellChange, Trial } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';
import { decimalsOf, formatNumber } from '../../units/units';
import { capitalised } from '../../parts/words';
import { placeOf } from '../../parts/placeOf';
import { Decide } from './Decide';
import { Ghost } from './Ghost';
import { Rulebook } from './Rulebook';
import { useDecision, type Decision } from './useDecision';

/** The advice: one change with its reason and what would prove it wrong; accept, change or decline. */
export function AdviceCard({ trial }: { trial: Trial }) {
    const { job } = useJob();
    const [book, setBook] = useState(false);
    const decision = useDecision(trial);
    const advice = trial.advice[0];
    if (!advice) {
        return (
            <Typography>
                {trial.good
                    ? 'Nothing needs changing at this temperature.'
                    : trial.acceptance.failed.length > 0
                      ? 'No single change can be advised from this start. Look at the findings below.'
                      : 'Nothing speaks against this start, and nothing needs changing; it is not proven yet. The findings say what is missing.'}
            </Typography>
        );
    }
    return (
        <Box
            component="section"
            aria-label="Advice"
            sx={{
                border: 2,
                borderColor: advice.table ? 'primary.main' : 'warning.main',
                bgcolor: 'background.paper',
                p: { xs: 1.5, md: 2 },
            }}
        >
            <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: 'minmax(0, 1fr) auto' }, gap: 2 }}>
                <div>
                    <Typography variant="h2">
                        <Title advice={advice} />
                    </Typography>
                    <Typography sx={{ mt: 0.5 }}>{inUnits(advice.reason, job.units)}</Typography>
                    <Typography variant="body2" sx={{ mt: 0.5 }}>
                        <b>Wrong if:</b> {advice.disproof}
                    </Typography>
                    <Typography variant="body2" color="text.secondary">
                        {capitalised(advice.sureness)} ({Math.round(100 * advice.confidence)} %), rule {advice.rule}.{' '}
                        <MuiLink component="button" type="button" onClick={() => setBook(true)}>
                            The whole rulebook
                        </MuiLink>
                    </Typography>
                </div>
                {advice.table && <Changed part={advice} table={advice.table} />}
            </Box>
            {trial.decision ? <Decided trial={trial} /> : <Decide trial={trial} decision={decision} />}
            <Others parts={trial.advice.slice(1)} decision={trial.decision ? null : decision} />
            <Rulebook open={book} here={advice.rule} onClose={() => setBook(false)} />
        </Box>
    );
}

/** Few cells as a list, a whole curve as a picture with the list under it. */
function Changed({ part, table }: { part: Pick<Trial['advice'][number], 'changes' | 'bands'>; table: string }) {
    const definition = useDefinition(table);
    const [open, setOpen] = useState(false);
    if (part.changes.length <= FEW || definition?.axes.length !== 1) return <Cells changes={part.changes} table={table} />;
    return (
        <Box sx={{ width: { xs: '100%', md: 430 } }}>
            <Ghost part={part} title={definition.title} unit={definition.unit} />
            <Button size="small" onClick={() => setOpen(!open)} aria-expanded={open}>
                {open ? 'Hide the numbers' : `The numbers of ${part.changes.length} cells`}
            </Button>
            {open && <Cells changes={part.changes} table={table} />}
        </Box>
    );
}

/** Up to so many cells are read faster than a picture. */
const FEW = 3;

/** What starts taught of other tables: each is taken along as its box says. */
function Others({ parts, decision }: { parts: Trial['advice']; decision: Decision | null }) {
    if (parts.length === 0) return null;
    return (
        <Box component="section" aria-label="Measured by the way" sx={{ mt: 1.5, pt: 1, borderTop: 1, borderColor: 'divider' }}>
            {parts.map((part) => (
                <Other key={part.table} part={part} decision={decision} />
            ))}
        </Box>
    );
}

function Other({ part, decision }: { part: Trial['advice'][number]; decision: Decision | null }) {
    const table = part.table ?? '';
    const title = useDefinition(table)?.title ?? table;
    return (
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: 'minmax(0, 1fr) auto' }, gap: 2, py: 0.5 }}>
            <div>
                <Typography variant="h3">
                    {title}, {part.part === 'search' ? 'searched' : 'measured'} by the way
                </Typography>
                <Typography variant="body2">{inUnits(part.reason)}</Typography>
                {decision && (
                    <FormControlLabel
                        control={<Checkbox checked={decision.takes(part)} onChange={(_, on) => decision.take(table, on)} />}
                        label={`Take ${title.toLowerCase()} along`}
                    />
                )}
            </div>
            <Changed part={part} table={table} />
        </Box>
    );
}

function useDefinition(table: string) {
    const { vocabulary } = useJob();
    return vocabulary.tables.find((entry) => entry.key === table);
}

const ASKS_FOR: Record<Trial['advice'][number]['kind'], string> = {
    change: 'Change one thing',
    measured: 'Take what was measured',
    measure: 'Measure this next',
    mend: 'Mend this before any table',
};

function Title({ advice }: { advice: Trial['advice'][number] }) {
    const title = useDefinition(advice.table ?? '')?.title.toLowerCase();
    return (
        <>
            {ASKS_FOR[advice.kind]}
            {title && `: ${title}`}
        </>
    );
}

/** From and to of each cell; two cells belong together where the start lies between them. */
function Cells({ changes, table }: { changes: CellChange[]; table: string }) {
    const definition = useDefinition(table);
    const { job, vocabulary } = useJob();
    const decimals = decimalsOf(definition?.resolution ?? 0.1);
    return (
        <Box component="table" sx={{ borderCollapse: 'collapse', alignSelf: 'start', '& td, & th': { px: 1, py: 0.25 } }}>
            <tbody>
                {changes.map((change) => (
                    <tr key={change.index.join()}>
                        <Box component="th" scope="row" sx={{ fontWeight: 400, textAlign: 'right', whiteSpace: 'nowrap' }}>
                            {placeOf(change, definition?.axes ?? [], vocabulary.axes, job.units)}
                        </Box>
                        <Box component="td" sx={{ fontFamily: mono, textAlign: 'right' }}>
                            {formatNumber(change.from, decimals)}
                        </Box>
                        <td aria-label="to">→</td>
                        <Box component="td" sx={{ fontFamily: mono, fontWeight: 700, fontSize: '1.15rem', textAlign: 'right' }}>
                            {formatNumber(change.to, decimals)}
                        </Box>
                        <td>{definition?.unit}</td>
                    </tr>
                ))}
            </tbody>
        </Box>
    );
}

function Decided({ trial }: { trial: Trial }) {
    const { job } = useJob();
    const { decision } = trial;
    if (!decision) return null;
    const isCheck = trial.advice[0]?.table === null;
    return (
        <Stack direction="row" sx={{ mt: 1.5, gap: 2, alignItems: 'center', flexWrap: 'wrap' }}>
            <Typography sx={{ fontWeight: 650 }}>
                {decision.kind === 'accepted'
                    ? `Accepted: it is revision ${decision.revision ?? ''} now.`
                    : isCheck
                      ? 'Noted.'
                      : 'Declined.'}{' '}
                {decision.note}
            </Typography>
            <Button component={Link} to={`/jobs/${job.id}/record`} variant="contained" sx={{ minHeight: 44 }}>
                Record the next start
            </Button>
            {decision.kind === 'accepted' && (
                <Button component={Link} to={`/jobs/${job.id}/ladder`}>
                    See the ladder
                </Button>
            )}
        </Stack>
    );
}
