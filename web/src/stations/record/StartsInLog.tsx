import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { ProblemNote } from '../../parts/ProblemNote';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';
import { formatNumber } from '../../units/units';

type Start = Schemas['StartSeen'];

interface Props {
    starts: Start[] | undefined;
    pending: boolean;
    error: Error | null;
    chosen: number[];
    onChoose: (numbers: number[]) => void;
}

const rows = {
    width: '100%',
    borderCollapse: 'collapse',
    '& td, & th': { p: 0.75, textAlign: 'left', borderBottom: 1, borderColor: 'divider' },
} as const;

/** Every start of the log with its moment and its outcome; those ticked become trials. */
export function StartsInLog({ starts, pending, error, chosen, onChoose }: Props) {
    if (pending) return <LinearProgress aria-label="Looking for starts" />;
    if (error) return <ProblemNote error={error} />;
    if (!starts) return null;
    const toggle = (number: number) =>
        onChoose(chosen.includes(number) ? chosen.filter((other) => other !== number) : [...chosen, number]);
    return (
        <section aria-label="Starts in this log">
            <Typography variant="h2" gutterBottom>
                {starts.length === 1 ? 'One start in this log' : `${starts.length} starts in this log`}
            </Typography>
            <Box sx={{ maxHeight: 260, overflow: 'auto', bgcolor: 'background.paper', border: 1, borderColor: 'divider' }}>
                <Box component="table" sx={rows}>
                    <thead>
                        <tr>
                            <th scope="col">Trial</th>
                            <th scope="col">Begins at</th>
                            <th scope="col">What happened</th>
                        </tr>
                    </thead>
                    <tbody>
                        {starts.map((start) => (
                            <StartRow key={start.number} start={start} on={chosen.includes(start.number)} onToggle={toggle} />
                        ))}
                    </tbody>
                </Box>
            </Box>
        </section>
    );
}

interface RowProps {
    start: Start;
    on: boolean;
    onToggle: (number: number) => void;
}

function StartRow({ start, on, onToggle }: RowProps) {
    const { job } = useJob();
    return (
        <tr>
            <td>
                <Checkbox
                    checked={on}
                    disabled={start.verdict === null}
                    onChange={() => onToggle(start.number)}
                    slotProps={{ input: { 'aria-label': `Start ${start.number} becomes a trial` } }}
                />
            </td>
            <Box component="td" sx={{ fontFamily: mono, whiteSpace: 'nowrap' }}>
                {formatNumber(start.begin_s, 0)} s
            </Box>
            <td>
                {start.good && <b>Good. </b>}
                {inUnits(start.sentence, job.units)}
            </td>
        </tr>
    );
}
