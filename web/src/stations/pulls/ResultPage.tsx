import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQueries, useQuery } from '@tanstack/react-query';

import type { Schemas } from '../../api/client';
import { CurvePlot, type Series } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { PrintBar } from '../../parts/PrintBar';
import { ProblemNote } from '../../parts/ProblemNote';
import { moment } from '../../parts/when';
import { useShown } from '../../parts/useShown';
import { inUnits } from '../../units/said';
import { pullQuery, pullsQuery } from './api';
import { driven, torqueOf } from './words';

const DRAWN = 4;

/** The result for paper: what was driven with, what it made, what it stopped at. */
export function ResultPage() {
    const { job } = useJob();
    const pulls = useQuery(pullsQuery(job.id));
    if (!pulls.data) return pulls.error ? <ProblemNote error={pulls.error} /> : <Loading what="Setting the result" />;
    return <Result pulls={pulls.data} />;
}

function Result({ pulls }: { pulls: Schemas['PullsOut'] }) {
    const { job } = useJob();
    const shown = useShown();
    const rows = pulls.pulls.filter(({ aside }) => !aside);
    const found = useQueries({ queries: rows.slice(0, DRAWN).map(({ number }) => pullQuery(job.id, number)) }).flatMap(({ data }) => data ?? []);
    const curves = (of: (pull: Schemas['PullWholeOut']) => readonly (number | null)[]): Series[] =>
        found.map((pull, place) => ({ name: `pull ${pull.number}`, points: pull.saved.pull.rpm.map((rpm, i) => [rpm, of(pull)[i] ?? null] as const), look: place ? 'broken' : 'line' }));
    return (
        <Box sx={{ p: 2, bgcolor: 'background.paper' }} className="print-list">
            <PrintBar to={`/jobs/${job.id}/pulls/board`} back="Back to the board" />
            <Typography variant="h1">Pulls: {job.name}</Typography>
            {!rows.length && <Typography>No pull that counts yet.</Typography>}
            <Box sx={{ display: 'grid', gap: 2, gridTemplateColumns: 'repeat(2, minmax(0, 1fr))', my: 1 }}>
                <CurvePlot title="Torque" xLabel="speed [rpm]" yLabel="torque [N·m]" series={curves((pull) => pull.saved.pull.values['torque_nm'] ?? [])} height={260} />
                <CurvePlot title="Power" xLabel="speed [rpm]" yLabel="power [kW]" series={curves((pull) => pull.power_kw)} height={260} />
            </Box>
            <Box component="table" sx={{ borderCollapse: 'collapse', width: '100%', '& th, & td': { textAlign: 'left', verticalAlign: 'top', px: 0.75, py: 0.4, borderTop: 1, borderColor: 'divider' } }}>
                <thead>
                    <tr>
                        {['Pull', 'When, by', 'Driven with', 'Air', 'Torque', 'Power', 'Pressure', 'Stops and doubts'].map((head) => (
                            <th key={head} scope="col">
                                {head}
                            </th>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {rows.map((row) => (
                        <tr key={row.number}>
                            <td>
                                {row.number}
                                {row.stand_in ? ', simulated' : ''}
                            </td>
                            <td>
                                {moment(row.at)}, {row.by}
                            </td>
                            <td>{driven(row)}</td>
                            <td>{row.conditions.ambient ? `${shown(row.conditions.ambient.temperature_c, '°C', 0)}, ${shown(row.conditions.ambient.pressure_kpa, 'kPa', 1)}` : 'not known'}</td>
                            <td>{torqueOf(row)}</td>
                            <td>{row.peak_power_kw === null ? '–' : `${shown(row.peak_power_kw, 'kW', 0)} at ${row.peak_power_rpm} rpm`}</td>
                            <td>{row.most_kpa === null ? '–' : shown(row.most_kpa, 'kPa', 0)}</td>
                            <td>{[...row.passed.map(({ sentence }) => sentence), row.stop, ...row.doubts].filter(Boolean).map((sentence) => inUnits(sentence, job.units)).join(' ')}</td>
                        </tr>
                    ))}
                </tbody>
            </Box>
            <Typography sx={{ mt: 1 }}>{inUnits(pulls.supply.sentence, job.units)}</Typography>
            <Typography variant="caption" component="p">
                Torque and power as measured, not corrected. Relative ones compare pulls of one car in one gear only.
            </Typography>
        </Box>
    );
}
