import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import { ApiProblem, type Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { fromShown, parseNumber, shownUnit } from '../../units/units';
import { NumberField } from '../../parts/NumberField';
import { ProblemNote } from '../../parts/ProblemNote';
import { CircumstanceFields } from './CircumstanceFields';
import { circumstancesOf, NO_CIRCUMSTANCES } from './circumstances';
import { useJudge } from './useJudge';

type Outcome = Schemas['Observation']['outcome'];

const OUTCOMES: { key: Outcome; text: string }[] = [
    { key: 'started', text: 'It started' },
    { key: 'started on the pedal', text: 'It started only with the pedal' },
    { key: 'started and died', text: 'It started, then died' },
    { key: 'fired and died', text: 'It fired and died at once' },
    { key: 'no fire', text: 'It never fired' },
    { key: 'slow crank', text: 'It cranked slowly' },
    { key: 'no sync', text: 'No speed shown while cranking' },
    { key: 'no crank', text: 'It did not turn' },
];

const RAN: Outcome[] = ['started', 'started on the pedal', 'started and died'];

/** A start as seen and heard, for a thumb: outcome first, figures if there are any. */
export function ObservationForm() {
    const { job } = useJob();
    const judge = useJudge();
    const [outcome, setOutcome] = useState<Outcome | null>(null);
    const [circumstances, setCircumstances] = useState(NO_CIRCUMSTANCES);
    const [typed, setTyped] = useState({ cranking: '', flare: '', dip: '', settled: '', lambda: '', ran: '' });
    const [note, setNote] = useState('');
    const set = (name: keyof typeof typed) => (text: string) => setTyped((old) => ({ ...old, [name]: text }));
    const { coolant_c, ...around } = circumstancesOf(circumstances, job.units);
    const lambda = parseNumber(typed.lambda);
    const problem = (name: string) => (judge.error instanceof ApiProblem ? judge.error.field(name) : undefined);
    const send = () => {
        if (outcome === null || coolant_c === null) return;
        judge.mutate({
            observation: {
                outcome,
                coolant_c,
                cranking_s: parseNumber(typed.cranking),
                flare_rpm: parseNumber(typed.flare),
                dip_rpm: parseNumber(typed.dip),
                settled_rpm: parseNumber(typed.settled),
                lambda_later: lambda === null ? null : fromShown(lambda, 'lambda', job.units),
                ran_s: parseNumber(typed.ran),
            },
            ...around,
            note,
        });
    };
    const ran = outcome !== null && RAN.includes(outcome);
    return (
        <Stack spacing={2} sx={{ maxWidth: 760 }}>
            <Box
                role="radiogroup"
                aria-label="What happened"
                sx={{ display: 'grid', gap: 1, gridTemplateColumns: { xs: '1fr 1fr', sm: 'repeat(4, 1fr)' } }}
            >
                {OUTCOMES.map(({ key, text }) => (
                    <Button
                        key={key}
                        role="radio"
                        aria-checked={outcome === key}
                        variant={outcome === key ? 'contained' : 'outlined'}
                        onClick={() => setOutcome(key)}
                        sx={{ minHeight: 60, lineHeight: 1.2 }}
                    >
                        {text}
                    </Button>
                ))}
            </Box>
            {outcome !== null && (
                <>
                    <CircumstanceFields value={circumstances} onChange={setCircumstances} askCoolant />
                    <Typography variant="body2">The rest only as far as you know it.</Typography>
                    <Box sx={{ display: 'grid', gap: 1.5, gridTemplateColumns: { xs: '1fr 1fr', sm: 'repeat(3, 1fr)' } }}>
                        <NumberField label="Cranked for" unit="s" value={typed.cranking} onChange={set('cranking')} error={problem('cranking_s')} />
                        {ran && <NumberField label="Flared to" unit="rpm" value={typed.flare} onChange={set('flare')} error={problem('flare_rpm')} />}
                        {ran && <NumberField label="Dipped to" unit="rpm" value={typed.dip} onChange={set('dip')} error={problem('dip_rpm')} />}
                        {outcome === 'started and died' && <NumberField label="Ran for" unit="s" value={typed.ran} onChange={set('ran')} error={problem('ran_s')} />}
                        {ran && outcome !== 'started and died' && (
                            <>
                                <NumberField label="Settled at" unit="rpm" value={typed.settled} onChange={set('settled')} error={problem('settled_rpm')} />
                                <NumberField
                                    label="Gauge, once warm"
                                    unit={shownUnit('lambda', job.units)}
                                    value={typed.lambda}
                                    onChange={set('lambda')}
                                    error={problem('lambda_later')}
                                />
                            </>
                        )}
                    </Box>
                    <TextField label="Note" value={note} onChange={(event) => setNote(event.target.value)} multiline />
                    {judge.error && <ProblemNote error={judge.error} />}
                    <Button
                        variant="contained"
                        size="large"
                        sx={{ minHeight: 52 }}
                        disabled={coolant_c === null || judge.isPending}
                        onClick={send}
                    >
                        {coolant_c === null ? 'Enter the coolant temperature' : 'Judge this start'}
                    </Button>
                </>
            )}
        </Stack>
    );
}
