import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import type { Log } from '../../api/client';
import { besideQuery, drawnQuery } from '../../api/logbook';
import { Choice } from '../../parts/Choice';
import { CurvePlot } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';

const CLOCK = 'time_s';

/** Two logs over each other, the clock of the second moved as the data themselves say, or by hand. */
export function Beside({ logs }: { logs: Log[] }) {
    const [first, setFirst] = useState('');
    const [second, setSecond] = useState('');
    const [channel, setChannel] = useState('rpm');
    const named = Object.fromEntries(logs.map(({ id, name }) => [String(id), name]));
    const of = (id: string) => logs.find((log) => String(log.id) === id);
    const theirs = new Set(of(second)?.channels.map(({ name }) => name));
    const common = (of(first)?.channels ?? []).filter(({ name }) => name !== CLOCK && theirs.has(name));
    const isChosen = first !== '' && second !== '' && first !== second && common.some(({ name }) => name === channel);
    return (
        <Box component="section" aria-label="Two logs" sx={{ mt: 3 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Two logs over each other
            </Typography>
            <Box sx={{ display: 'flex', gap: 1.5, flexWrap: 'wrap', mb: 1 }}>
                <Choice label="First" value={first} onChange={setFirst} options={named} width={280} />
                <Choice label="Second" value={second} onChange={setSecond} options={named} width={280} />
                <Choice label="Channel" value={common.some(({ name }) => name === channel) ? channel : ''} onChange={setChannel} options={Object.fromEntries(common.map(({ name, title }) => [name, title]))} width={220} />
            </Box>
            {isChosen && <Laid key={`${first} ${second} ${channel}`} first={Number(first)} second={Number(second)} channel={channel} unit={common.find(({ name }) => name === channel)?.unit ?? ''} />}
        </Box>
    );
}

function Laid({ first, second, channel, unit }: { first: number; second: number; channel: string; unit: string }) {
    const { job } = useJob();
    const found = useQuery(besideQuery(job.id, first, second, channel));
    const one = useQuery(drawnQuery(job.id, first, channel));
    const other = useQuery(drawnQuery(job.id, second, channel));
    const [byHand, setByHand] = useState<number | null>(null);
    const shift = byHand ?? found.data?.shift_s ?? 0;
    const line = (data: typeof one.data, by: number) => (data?.time_s ?? []).map((time, i) => [time + by, data?.channels[channel]?.[i] ?? null] as const);
    return (
        <>
            {found.data && <Typography sx={{ mb: 1 }}>{found.data.sentence}</Typography>}
            {found.error && <ProblemNote error={found.error} />}
            <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', mb: 1 }}>
                <Box sx={{ width: 200 }}>
                    <QuantityField label="Second moved by" unit="s" value={byHand ?? found.data?.shift_s ?? null} onChange={setByHand} />
                </Box>
                {byHand !== null && <Button onClick={() => setByHand(null)}>As the data say</Button>}
            </Box>
            <Box sx={{ maxWidth: 720 }}>
                <CurvePlot title="Both logs" xLabel="time of the first [s]" yLabel={unit} series={[{ name: 'first', points: line(one.data, 0) }, { name: 'second', points: line(other.data, shift), look: 'broken' }]} height={260} />
            </Box>
        </>
    );
}
