import Button from '@mui/material/Button';
import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';

import { client, unwrap, type Schemas, type SensorRow } from '../../api/client';
import { refresh } from '../../api/refresh';
import { agreementQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { shownUnit, toShown } from '../../units/units';
import { CurvePlot } from '../../parts/CurvePlot';
import { Facts } from '../../parts/Facts';
import { Loading } from '../../parts/Loading';
import { PointGrid, type Row } from '../../parts/PointGrid';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import { useComputed } from '../../parts/useComputed';
import type { SensorFunction } from './draft';
import { TransferPlot } from './TransferPlot';

/** Logged lambda beside the gauge's own display: do they say the same? */
export function AgreementSheet({ hardware, sensors }: { hardware: Schemas['HardwareOut']; sensors: SensorRow[] }) {
    const { job } = useJob();
    const saved = useQuery(agreementQuery(job.id));
    if (!saved.data) return saved.error ? <ProblemNote error={saved.error} /> : <Loading what="Opening the pairs" />;
    const wideband = sensors.find((row) => row.function === 'wideband');
    const definition = hardware.functions.find((one) => one.key === 'wideband');
    const entered = wideband && definition && <EnteredCurve wideband={wideband} definition={definition} />;
    return <Pairs key={saved.data.number} saved={saved.data} wideband={wideband} entered={entered} />;
}

type Pair = number[];

interface PairsProps {
    saved: Schemas['AgreementOut'];
    wideband: SensorRow | undefined;
    /** Drawn until there are pairs. */
    entered: ReactNode;
}

function Pairs({ saved, wideband, entered }: PairsProps) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [rows, setRows] = useState<Row[]>(saved.pairs.map((pair) => [...pair] as Row));
    const pairs = rows.filter((row): row is Pair => row.length === 2 && row.every((cell) => cell !== null));
    const path = { params: { path: { job_id: job.id } } };
    const computed = useComputed('agreement', pairs.length ? { pairs, wideband: wideband?.number ?? 0 } : null, (body) =>
        unwrap(client.POST('/api/jobs/{job_id}/agreement/preview', { ...path, body: { pairs: body.pairs } })),
    );
    const again = () => refresh(queryClient, job.id, 'sensors');
    const save = useMutation({
        mutationFn: () => unwrap(client.POST('/api/jobs/{job_id}/agreement', { ...path, body: { pairs } })),
        onSuccess: again,
    });
    const use = useMutation({
        mutationFn: (proposal: Schemas['LinearEntry']) => {
            if (!wideband) throw new Error('No wideband is entered.');
            const note = `Corrected by ${pairs.length} pairs of gauge and log.`;
            const sensor = { ...wideband.sensor, transfer: proposal, provenance: 'measured' as const, note };
            return unwrap(client.POST('/api/jobs/{job_id}/sensors', { ...path, body: { sensor } }));
        },
        onSuccess: again,
    });
    const result = pairs.length && !computed.error ? computed.data?.result : undefined;
    const shown = (value: number) => toShown(value, 'lambda', job.units);
    const ends = pairs.flat();
    const diagonal = ends.length ? [Math.min(...ends), Math.max(...ends)] : [];
    const proposal = result?.proposal;
    return (
        <WithMargin margin={<AgreementFacts result={result} proposal={proposal} />}>
            <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mb: 1 }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Gauge against log
                </Typography>
                <Button variant="outlined" disabled={!result || save.isPending} onClick={() => save.mutate()}>
                    Write the pairs down
                </Button>
                {proposal && (
                    <Button variant="contained" disabled={!wideband || use.isPending} onClick={() => use.mutate(proposal)}>
                        Use the corrected transfer
                    </Button>
                )}
            </Stack>
            <Typography sx={{ mb: 2 }}>
                Read the wideband&rsquo;s own display and the log at the same moments, from rich to lean.
                {wideband ? '' : ' Enter the wideband first, so that a correction can be proposed.'}
            </Typography>
            {result && <Sentences sentences={[result.sentence]} level={result.verdict === 'agree' ? 'good' : 'attention'} />}
            {save.error && <ProblemNote error={save.error} />}
            {use.error && <ProblemNote error={use.error} />}
            <Box sx={{ display: 'grid', gap: 3, gridTemplateColumns: { xs: '1fr', md: '300px minmax(0, 520px)' }, alignItems: 'start' }}>
                <PointGrid
                    title="Pairs"
                    columns={[
                        { title: 'Gauge', unit: 'lambda' },
                        { title: 'Log', unit: 'lambda' },
                    ]}
                    rows={rows}
                    onChange={setRows}
                    purpose="pairs"
                    error={computed.error && pairs.length ? computed.error.message : undefined}
                />
                {pairs.length > 1 ? <GaugeOverLog pairs={pairs} shown={shown} diagonal={diagonal} result={result} /> : entered}
            </Box>
        </WithMargin>
    );
}

/** What the controller makes of the wideband's signal: that is what the gauge's own display is compared with. */
function EnteredCurve({ wideband, definition }: { wideband: SensorRow; definition: SensorFunction }) {
    const computed = useComputed('sensor-preview', { sensor: wideband.sensor, of: 'signal' as const, axis: null }, (body) =>
        unwrap(client.POST('/api/sensors/preview', { body })),
    );
    return computed.data ? <TransferPlot definition={definition} sheet={computed.data.sheet} /> : null;
}

interface GaugeOverLogProps {
    pairs: number[][];
    shown: (value: number) => number;
    diagonal: number[];
    result: Schemas['AgreementOut']['result'] | undefined;
}

/** The pairs beside the line on which both agree. */
function GaugeOverLog({ pairs, shown, diagonal, result }: GaugeOverLogProps) {
    const { job } = useJob();
    return (
        <CurvePlot
            title="Gauge over log"
            xLabel={`log, ${shownUnit('lambda', job.units)}`}
            yLabel={`gauge, ${shownUnit('lambda', job.units)}`}
            dots={pairs.map(([gauge = 0, log = 0]) => [shown(log), shown(gauge)] as const)}
            series={[
                { name: 'as it should be', look: 'faint', points: diagonal.map((v) => [shown(v), shown(v)] as const) },
                ...(result
                    ? [{ name: 'as it is', points: diagonal.map((v) => [shown(v), shown(result.gain * v + result.offset)] as const) }]
                    : []),
            ]}
        />
    );
}

/** Gain and offset, and the transfer that would agree. */
function AgreementFacts({ result, proposal }: { result: Schemas['AgreementOut']['result'] | undefined; proposal: Schemas['LinearEntry'] | null | undefined }) {
    return (
        result ? (
            <>
                <Facts
                    title="Gauge = gain · log + offset"
                    facts={[
                        { name: 'Gain', value: result.gain, unit: '', decimals: 3 },
                        { name: '… standard error', value: result.gain_error, unit: '', decimals: 3 },
                        { name: 'Offset (lambda)', value: result.offset, unit: '', decimals: 3 },
                        { name: '… standard error', value: result.offset_error, unit: '', decimals: 3 },
                        { name: 'At the input', value: result.ground_offset_v, unit: 'V', decimals: 3 },
                    ]}
                />
                {proposal && (
                    <Facts
                        title="Transfer that would agree"
                        facts={[
                            { name: 'Slope, lambda per V', value: proposal.slope, unit: '', decimals: 4 },
                            { name: 'Lambda at 0 V', value: proposal.offset, unit: '', decimals: 4 },
                        ]}
                    />
                )}
            </>
        ) : (
            <Typography variant="body2">Gain, offset and what they mean stand here from the third pair on.</Typography>
        )
    );
}
