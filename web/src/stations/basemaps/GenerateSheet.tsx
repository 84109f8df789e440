import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { inUnits } from '../../units/said';
import { decimalsOf, namedUnit } from '../../units/units';
import { Caution } from '../../parts/Caution';
import { Choice } from '../../parts/Choice';
import { CurvePlot } from '../../parts/CurvePlot';
import { Facts } from '../../parts/Facts';
import { fieldProblem } from '../../parts/fieldProblem';
import { Group } from '../../parts/Group';
import { ProblemNote } from '../../parts/ProblemNote';
import { QuantityField } from '../../parts/QuantityField';
import { useComputed } from '../../parts/useComputed';
import { useShown } from '../../parts/useShown';
import { BLOCK_FIELDS, CAM_FIELDS, CHARGE_FIELDS, START_FIELDS, type Engine, type EngineField } from './engineFields';
import { SchoolSliders } from './SchoolSliders';

type Maps = Schemas['BaseMapsOut'];

/** What an installer knows of the engine, the schools, and what would be generated from both. */
export function GenerateSheet({ maps }: { maps: Maps }) {
    const { job, vocabulary } = useJob();
    const queryClient = useQueryClient();
    const [engine, setEngine] = useState<Engine>(maps.engine);
    const [left, setLeft] = useState<readonly string[]>([]);
    const [note, setNote] = useState('');
    const path = { params: { path: { job_id: job.id } } };
    const preview = useComputed(`base-maps-${job.id}-${maps.revision}`, { engine }, (body) =>
        unwrap(client.POST('/api/jobs/{job_id}/base-maps/preview', { ...path, body })),
    );
    const answer = preview.error ? undefined : preview.data;
    const changes = answer?.changes ?? [];
    const wanted = changes.filter(({ key }) => !left.includes(key));
    const generate = useMutation({
        mutationFn: () =>
            unwrap(
                client.POST('/api/jobs/{job_id}/base-maps/generate', {
                    ...path,
                    body: { engine, based_on: maps.revision, note, tables: left.length ? wanted.map(({ key }) => key) : null },
                }),
            ),
        onSuccess: () => refresh(queryClient, job.id, 'tables', 'injectors', 'intake'),
    });
    const problem = (name: string) => fieldProblem([generate.error, preview.error], name);
    const change = (part: Partial<Engine>) => setEngine((old) => ({ ...old, ...part }));
    const expected = answer?.expected ?? maps.expected;
    const field = ({ key, label, when, help }: EngineField) => {
        const known = vocabulary.engine_fields.find(({ path }) => path === key);
        const mayBeEmpty = known?.default === null && !known.needed;
        return when && !when(engine) ? null : (
            <QuantityField
                key={key}
                label={label}
                unit={known?.unit ?? ''}
                value={engine[key] as number | null}
                onChange={(value) => {
                    if (value !== null || mayBeEmpty) change({ [key]: value });
                }}
                error={problem(key)}
                {...(help ? { help } : {})}
            />
        );
    };
    return (
        <WithMargin margin={<ExpectedMargin expected={expected} maps={maps} />}>
            <Stack direction="row" sx={{ alignItems: 'baseline', gap: 2, mb: 1.5 }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Base maps from engine data
                </Typography>
                {changes.length > 0 && (
                    <Button size="small" onClick={() => document.getElementById('what-would-change')?.scrollIntoView({ behavior: 'smooth' })}>
                        {changes.length} {changes.length === 1 ? 'table' : 'tables'} would change: see which ↓
                    </Button>
                )}
            </Stack>
            <Group title="Engine">{BLOCK_FIELDS.map(field)}</Group>
            <CamGroup engine={engine} change={change} field={field} />
            <ChargeGroup engine={engine} change={change} field={field} problem={problem} />
            <Group title="What a cold start meets; leave empty what nobody knows">
                {START_FIELDS.map(field)}
                <Choice label="Season of the fuel" value={engine.fuel_season} onChange={(value) => change({ fuel_season: value as Engine['fuel_season'] })} options={{ unknown: 'not known', winter: 'winter petrol', summer: 'summer petrol' }} />
                {engine.fuelling === 'port' && (
                    <Choice label="Injector spray" value={engine.injector_spray} onChange={(value) => change({ injector_spray: value as Engine['injector_spray'] })} options={{ unknown: 'not known', valve: 'onto the valve', wall: 'along the wall' }} />
                )}
            </Group>
            <SchoolSliders
                schools={answer?.schools ?? maps.schools}
                onChoose={(key, value) =>
                    key === 'injections_per_cycle' ? change({ injections_per_cycle: Number(value) }) : change({ schools: { ...engine.schools, [key]: value } as Engine['schools'] })
                }
            />
            <Outlook expected={expected} />
            <Changes changes={changes} left={left} onLeave={setLeft} revision={maps.revision} />
            {changes.length > 0 && (
                <Stack direction="row" sx={{ gap: 1, mt: 1.5, alignItems: 'center', flexWrap: 'wrap' }}>
                    <TextField label="Why (kept with the revision)" value={note} onChange={(event) => setNote(event.target.value)} sx={{ flex: '1 1 260px' }} />
                    <Button variant="contained" disabled={!wanted.length || generate.isPending || Boolean(preview.error)} onClick={() => generate.mutate()} sx={{ minHeight: 40 }}>
                        Generate {left.length ? `${wanted.length} tables` : 'these tables'}
                    </Button>
                </Stack>
            )}
            {(generate.error ?? preview.error) && <ProblemNote error={(generate.error ?? preview.error) as Error} />}
            <Box sx={{ mt: 2 }}>
                <Caution>
                    These maps are for a first start with somebody at the key and an extinguisher to hand. No knock margin is known: no load is held before mixture and knock were watched. Local rules and licensed practice come first.
                </Caution>
            </Box>
        </WithMargin>
    );
}

interface ChargeGroupProps {
    engine: Schemas['EngineEntry'];
    change: (part: Partial<Engine>) => void;
    field: (field: EngineField) => ReactNode;
    problem: (name: string) => string | undefined;
}

/** Induction, what is in the tank, and what the engine is for. */
function ChargeGroup({ engine, change, field, problem }: ChargeGroupProps) {
    return (
        <Group title="Charge, fuel and use">
            <Choice
                label="Induction"
                value={engine.induction}
                onChange={(induction) => change(induction === 'natural' ? { induction, boost_kpa: 0, wastegate_kpa: null, boost_full_rpm: null } : { induction: 'boosted' })}
                options={{ natural: 'natural', boosted: 'boosted' }}
            />
            {CHARGE_FIELDS.map(field)}
            {engine.induction === 'boosted' && (
                <Choice label="Charge cooling" value={engine.charge_cooling} onChange={(value) => change({ charge_cooling: value as Engine['charge_cooling'] })} options={{ none: 'none', air: 'by air', water: 'by water' }} />
            )}
            <QuantityField label="Ethanol in the tank" unit="%" value={Math.round(engine.ethanol_volume_share * 1000) / 10} onChange={(value) => value !== null && change({ ethanol_volume_share: value / 100 })} error={problem('ethanol_volume_share')} />
            <Choice label="Use" value={engine.use} onChange={(use) => change({ use: use as Engine['use'] })} options={{ road: 'road', towing: 'towing', stationary: 'stationary, held load', competition: 'competition' }} />
        </Group>
    );
}

/** The class of the cam, and its figures where they are known. */
function CamGroup({ engine, change, field }: { engine: Schemas['EngineEntry']; change: (part: Partial<Engine>) => void; field: (field: EngineField) => ReactNode }) {
    return (
        <Group title="Cam" columns="repeat(5, minmax(0, 1fr))">
            <Choice label="Class" value={engine.cam} onChange={(cam) => change({ cam: cam as Engine['cam'] })} options={{ mild: 'mild', moderate: 'moderate', wild: 'wild' }} />
            {engine.cycle === 'four_stroke' && CAM_FIELDS.map(field)}
            <Choice
                label="Cam profiles"
                value={String(engine.cam_profiles)}
                onChange={(count) => change({ cam_profiles: Number(count) })}
                options={{ '1': 'one', '2': 'two, switched by speed' }}
            />
        </Group>
    );
}

function ExpectedMargin({ expected, maps }: { expected: Schemas['Expected']; maps: Maps }) {
    const { job } = useJob();
    return (
        <>
            <Facts
                title="What to expect"
                facts={[
                    { name: 'Warm idle', value: expected.idle_rpm, unit: 'rpm', decimals: 0 },
                    { name: 'Pressure at idle', value: expected.idle_map_kpa, unit: 'kPa', decimals: 0 },
                    { name: 'Air at idle', value: expected.idle_air_gps, unit: 'g/s', decimals: 1 },
                    { name: 'Power, at least', value: expected.power_low_kw, unit: 'kW', decimals: 0 },
                    { name: 'Power, at most', value: expected.power_high_kw, unit: 'kW', decimals: 0 },
                    { name: 'at', value: expected.power_rpm, unit: 'rpm', decimals: 0 },
                    { name: 'Rev limit, first start', value: expected.first_limit_rpm, unit: 'rpm', decimals: 0 },
                    { name: 'Piston speed at limit', value: expected.piston_speed_m_s, unit: 'm/s', decimals: 1 },
                    { name: 'Charge at full load', value: expected.charge_c, unit: '°C', decimals: 0 },
                ]}
            />
            <Typography variant="h3">Knock</Typography>
            {expected.knock.map((sentence) => (
                <Typography key={sentence} variant="body2" sx={{ mb: 0.5 }}>
                    {inUnits(sentence)}
                </Typography>
            ))}
            <Typography variant="h3" sx={{ mt: 1.5 }}>
                Cold starts and charge
            </Typography>
            {expected.cold.map((sentence) => (
                <Typography key={sentence} variant="body2" sx={{ mb: 0.5 }}>
                    {inUnits(sentence)}
                </Typography>
            ))}
            <Box sx={{ mt: 2 }}>
                <Facts title={`Fan and pump${maps.outputs_assumed ? ', proposed' : ''}`} facts={maps.outputs.map(({ title, value, unit }) => ({ name: title, value, unit, decimals: unit === 's' ? 1 : 0 }))} />
                <Typography variant="body2">
                    Set with the <Link to={`/jobs/${job.id}/wiring/outputs`}>outputs of the wiring</Link>.
                </Typography>
            </Box>
        </>
    );
}

function Outlook({ expected }: { expected: Schemas['Expected'] }) {
    const line = (pick: (point: Schemas['LoadPoint']) => number) => expected.full_load.map((point) => [point.rpm, pick(point)] as const);
    return (
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: '1fr 1fr' }, gap: 2, mb: 2 }}>
            <CurvePlot
                title="Power expected at full load over engine speed"
                xLabel="engine speed, rpm"
                yLabel="power, kW"
                series={[
                    { name: 'at least', points: line((p) => p.power_low_kw), look: 'broken' },
                    { name: 'at most', points: line((p) => p.power_high_kw) },
                ]}
                yEnds={[0]}
                height={260}
            />
            <CurvePlot title="Air expected at full load over engine speed" xLabel="engine speed, rpm" yLabel="air, g/s" series={[{ name: '', points: line((p) => p.air_gps) }]} yEnds={[0]} height={260} />
        </Box>
    );
}

interface ChangesProps {
    changes: Schemas['TableChangeOut'][];
    left: readonly string[];
    onLeave: (keys: readonly string[]) => void;
    revision: number;
}

function Changes({ changes, left, onLeave, revision }: ChangesProps) {
    const shown = useShown();
    const { vocabulary } = useJob();
    if (!changes.length) {
        return <Typography>These data give just what revision {revision} holds: there is nothing to generate.</Typography>;
    }
    return (
        <Box id="what-would-change">
            <Typography variant="h2">What would change in revision {revision}</Typography>
            <Typography variant="body2" sx={{ mb: 0.5 }}>
                Take the tick away where a table is to stay as it is.
            </Typography>
            <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0, columns: { md: 2 } }}>
                {changes.map((change) => {
                    const resolution = vocabulary.tables.find(({ key }) => key === change.key)?.resolution ?? 0.1;
                    const unit = namedUnit(change.unit);
                    return (
                        <Box component="li" key={change.key} sx={{ breakInside: 'avoid' }}>
                            <FormControlLabel
                                control={
                                    <Checkbox
                                        size="small"
                                        checked={!left.includes(change.key)}
                                        onChange={(event) => onLeave(event.target.checked ? left.filter((key) => key !== change.key) : [...left, change.key])}
                                    />
                                }
                                label={
                                    <Typography variant="body2" component="span">
                                        <b>{change.title}</b>:{' '}
                                        {change.reshaped
                                            ? 'comes, goes, or gets other breakpoints'
                                            : `${change.cells} ${change.cells === 1 ? 'value' : 'values'}, at most by ${unit === '°C' || unit === 'lambda' ? `${change.largest.toFixed(decimalsOf(resolution))} ${unit}` : shown(change.largest, unit, decimalsOf(resolution))}`}
                                        {change.evidence > 0 && (
                                            <Box component="span" sx={{ color: 'warning.main', fontWeight: 650 }}>
                                                {' '}
                                                – {change.evidence} found or carried-over cells would be lost
                                            </Box>
                                        )}
                                    </Typography>
                                }
                            />
                        </Box>
                    );
                })}
            </Box>
        </Box>
    );
}
