import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { useShown } from '../../parts/useShown';
import { moment } from '../../parts/when';
import { inUnits } from '../../units/said';
import { sheetQuery } from './api';

/** The run sheet for paper: a box to tick and a line to write on at every step, what is done with time and who. */
export function PrintSheetPage() {
    const { job } = useJob();
    const sheet = useQuery(sheetQuery(job.id));
    if (!sheet.data) return sheet.error ? <ProblemNote error={sheet.error} /> : <Loading what="Setting the sheet" />;
    const { steps, gates } = sheet.data;
    const parts = [...new Set(steps.map(({ part_title }) => part_title))];
    return (
        <Box sx={{ p: 2, bgcolor: 'background.paper' }} className="print-list">
            <Stack direction="row" className="no-print" sx={{ gap: 1.5, mb: 2 }}>
                <Button variant="contained" onClick={() => window.print()}>
                    Print
                </Button>
                <Button component={Link} to={`/jobs/${job.id}/first-start`}>
                    Back to the sheet
                </Button>
            </Stack>
            <Typography variant="h1">First start: {job.name}</Typography>
            <Typography variant="body2" sx={{ mb: 1 }}>
                Fuel under pressure, turning parts, exhaust gas: extinguisher to hand, doors open, somebody at the kill switch. Local codes and licensed practice come first.
            </Typography>
            {gates.map(({ key, sentence }) => (
                <Typography key={`${key}${sentence}`} variant="body2">
                    Not open yet: {inUnits(sentence, job.units)}
                </Typography>
            ))}
            {parts.map((part) => (
                <Box key={part} component="section">
                    <Typography variant="h2" sx={{ mt: 1.5 }}>
                        {part}
                    </Typography>
                    <Box component="table" sx={{ width: '100%', borderCollapse: 'collapse' }}>
                        <Box component="thead" sx={{ textAlign: 'left', fontSize: '0.8rem' }}>
                            <tr>
                                <th scope="col">✓</th>
                                <th scope="col">Step</th>
                                <th scope="col">Read</th>
                                <th scope="col">Time, who</th>
                            </tr>
                        </Box>
                        <tbody>
                            {steps
                                .filter(({ part_title }) => part_title === part)
                                .map((step) => (
                                    <PrintedStep key={step.key} step={step} />
                                ))}
                        </tbody>
                    </Box>
                </Box>
            ))}
        </Box>
    );
}

const CELL = { borderBottom: '1px solid', borderColor: 'divider', px: 0.75, py: 0.6, verticalAlign: 'top', fontSize: '0.88rem' } as const;

function PrintedStep({ step }: { step: Schemas['StepOut'] }) {
    const { job } = useJob();
    const done = step.done;
    return (
        <tr>
            <Box component="td" sx={{ ...CELL, width: 28, fontSize: '1.1rem' }}>
                {done && step.closed ? (done.skipped ? '–' : '☑') : '☐'}
            </Box>
            <Box component="td" sx={CELL}>
                <b>{step.title}.</b> {inUnits(step.text, job.units)} {step.caution && <i>{step.caution}</i>}
                {done?.skipped && <div>Skipped: {done.skipped}</div>}
                {done?.stopped.map((sentence) => <div key={sentence}>{inUnits(sentence, job.units)}</div>)}
                {done?.told.map((sentence) => <div key={sentence}>{inUnits(sentence, job.units)}</div>)}
            </Box>
            <Box component="td" sx={{ ...CELL, width: '30%' }}>
                {step.readings.map((reading) => (
                    <Read key={reading.key} reading={reading} value={done?.values.find(({ key }) => key === reading.key)?.value} />
                ))}
            </Box>
            <Box component="td" sx={{ ...CELL, width: '18%' }}>
                {step.at ? `${moment(step.at)}, ${step.by}` : ''}
            </Box>
        </tr>
    );
}

/** A reading with its limits, as it was taken or with a line to write on. */
function Read({ reading, value }: { reading: Schemas['Reading']; value: number | undefined }) {
    const shown = useShown();
    const unit = reading.unit === '–' ? '' : reading.unit;
    const limit = [reading.stop_below == null ? '' : `at least ${shown(reading.stop_below, unit, unit === 'kPa' ? 0 : 2)}`, reading.stop_above == null ? '' : `at most ${shown(reading.stop_above, unit, unit === 'kPa' ? 0 : 2)}`].filter(Boolean).join(', ');
    return (
        <div>
            {reading.title}: <b>{value === undefined ? `________ ${unit}` : shown(value, unit, 1)}</b>
            {limit && ` (${limit})`}
        </div>
    );
}
