import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';

import type { Trial } from '../../api/client';
import { sessionQuery } from '../../api/vocabulary';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { formatNumber, parseNumber, toShown } from '../../units/units';
import type { Decision } from './useDecision';

type Advice = Trial['advice'][number];

interface Props {
    advice: Advice;
    decision: Decision;
}

/** Accept, change or decline the advice of a trial; or note what was done about a cause. */
export function Decide({ trial, decision }: { trial: Trial; decision: Decision }) {
    const session = useQuery(sessionQuery).data;
    const advice = trial.advice[0];
    if (!advice) return null;
    // Who may only record sees the advice, and who decides on it.
    if (session && !session.may_release) return <Typography sx={{ mt: 1 }}>{session.bounds}</Typography>;
    const error = decision.accept.error ?? decision.decline.error;
    return (
        <Stack spacing={1.25} sx={{ mt: 1.5 }}>
            {decision.mode === 'change' && <OwnValues advice={advice} decision={decision} />}
            {decision.mode !== 'look' && <Note advice={advice} decision={decision} />}
            {error && <ProblemNote error={error} />}
            {trial.advice.length > 1 && decision.mode !== 'decline' && (
                <Typography variant="body2">Accepting takes along what is ticked below; each was observed by itself.</Typography>
            )}
            <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap', '& .MuiButton-root': { minHeight: 44, px: 2.5 } }}>
                <Yes advice={advice} decision={decision} />
                <No advice={advice} decision={decision} />
                {decision.mode !== 'look' && <Button onClick={() => decision.setMode('look')}>Back</Button>}
            </Stack>
        </Stack>
    );
}

/** Another value for each cell of the advice. */
function OwnValues({ advice, decision }: Props) {
    const { job } = useJob();
    return (
        <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap' }}>
            {advice.changes.map((change) => (
                <TextField
                    key={change.index.join()}
                    label={`New value at ${formatNumber(toShown(change.at[0] ?? 0, '°C', job.units), 0)}`}
                    value={decision.typed(change.index, change.to)}
                    onChange={(event) => decision.type(change.index, event.target.value)}
                    error={parseNumber(decision.typed(change.index, change.to)) === null}
                    slotProps={{ htmlInput: { inputMode: 'decimal' } }}
                />
            ))}
        </Stack>
    );
}

function Note({ advice, decision }: Props) {
    const why = advice.table ? 'Why not' : 'What was done or found';
    return (
        <TextField
            label={decision.mode === 'change' ? 'Note' : why}
            value={decision.note}
            onChange={(event) => decision.setNote(event.target.value)}
            autoFocus
            fullWidth
        />
    );
}

/** Accepting, as given or with other values; a cause under the bonnet cannot be accepted. */
function Yes({ advice, decision }: Props) {
    const { mode, accept, changes, complete } = decision;
    if (!advice.table || mode === 'decline') return null;
    const own = mode === 'change' ? (changes as { index: number[]; to: number }[]) : null;
    return (
        <>
            <Button variant="contained" disabled={accept.isPending || !complete} onClick={() => accept.mutate(own)}>
                {mode === 'change' ? 'Accept with these values' : 'Accept'}
            </Button>
            {mode === 'look' && (
                <Button variant="outlined" onClick={() => decision.setMode('change')}>
                    Change the values
                </Button>
            )}
        </>
    );
}

function No({ advice, decision }: Props) {
    const { mode, setMode, decline, note } = decision;
    if (mode !== 'decline') {
        return (
            <Button variant="outlined" onClick={() => setMode('decline')}>
                {advice.table ? 'Decline with a note' : 'Note what was done'}
            </Button>
        );
    }
    return (
        <Button variant="contained" disabled={decline.isPending || note.trim() === ''} onClick={() => decline.mutate()}>
            {advice.table ? 'Decline' : 'Write it down'}
        </Button>
    );
}
