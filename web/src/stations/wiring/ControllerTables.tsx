import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import InputBase from '@mui/material/InputBase';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import type { ControllerProfile, Schemas, WiringVocabulary } from '../../api/client';
import { Choice } from '../../parts/Choice';
import { Group } from '../../parts/Group';
import { useJob } from '../../parts/jobContext';
import { numbersOf, textOf } from '../../parts/numberList';
import { QuantityField } from '../../parts/QuantityField';
import { parseNumber } from '../../units/units';

type TableDefinition = Schemas['TableDefinition'];

interface AxisDraft {
    name: string;
    most: string;
    points: string;
}

interface TableDraft {
    key: string;
    held: boolean;
    unit: string;
    step: string;
    axes: AxisDraft[];
}

interface Props {
    profile: ControllerProfile;
    /** Whether it is the workshop's own: what ships is kept under another name. */
    isOwn: boolean;
    words: WiringVocabulary;
    isKeeping: boolean;
    onKeep: (profile: ControllerProfile) => void;
    onClose: () => void;
}

function drafted(profile: ControllerProfile, definitions: readonly TableDefinition[]): TableDraft[] {
    /** As many points as its other tables have over the same axis; typed where it has none. */
    const alike = (name: string) => profile.tables.flatMap(({ axes }) => axes).find((axis) => axis.name === name)?.most_points;
    return definitions.map((definition) => {
        const kept = profile.tables.find(({ key }) => key === definition.key);
        return {
            key: definition.key,
            held: kept !== undefined,
            unit: kept?.unit ?? definition.unit,
            step: String(kept?.step ?? definition.resolution),
            axes: kept ? kept.axes.map(({ name, most_points, points }) => ({ name, most: String(most_points), points: textOf(points ?? []) })) : definition.axes.map((name) => ({ name, most: String(alike(name) ?? ''), points: '' })),
        };
    });
}

/** What is to be kept of a table; null while a number in it is none. */
function formatOf(draft: TableDraft): Schemas['TableFormat'] | null {
    const step = parseNumber(draft.step);
    const axes = draft.axes.map(({ name, most, points }) => ({ name, most_points: parseNumber(most), points: numbersOf(points) }));
    if (step === null || axes.some(({ most_points, points }) => most_points === null || !points)) return null;
    return { key: draft.key, unit: draft.unit.trim(), step, axes: axes.map(({ name, most_points, points }) => ({ name, most_points: most_points ?? 0, points: points ?? [] })) };
}

/** How a controller holds its tables and starts an engine, set row by row. */
export function ControllerTables({ profile, isOwn, words, isKeeping, onKeep, onClose }: Props) {
    const { vocabulary } = useJob();
    const [name, setName] = useState(isOwn ? profile.name : `${profile.name}, own`);
    const [tables, setTables] = useState(() => drafted(profile, vocabulary.tables));
    const [starts, setStarts] = useState({ fade_law: profile.fade_law, crank_to_run_rpm: profile.crank_to_run_rpm, cranking_half_turns: profile.cranking_half_turns });
    const change = (key: string, part: Partial<TableDraft>) => setTables((old) => old.map((table) => (table.key === key ? { ...table, ...part } : table)));
    const held = tables.filter((table) => table.held).map(formatOf);
    const isWhole = held.every((format) => format !== null) && name.trim() !== '';
    const keep = () => onKeep({ ...profile, name: name.trim(), ...starts, tables: held.filter((format) => format !== null) });
    return (
        <Box component="section" aria-label="Tables of the controller" sx={{ mb: 3 }}>
            <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mb: 1.5, flexWrap: 'wrap' }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Tables of a controller
                </Typography>
                <Button onClick={onClose}>Back</Button>
                <Button variant="contained" disabled={!isWhole || isKeeping} onClick={keep}>
                    Keep this controller
                </Button>
            </Stack>
            <TextField label="Name of the controller" value={name} onChange={(event) => setName(event.target.value)} helperText={isOwn ? 'one of the same name is replaced' : 'what ships stays as it is; this is kept as your own'} sx={{ width: 380, maxWidth: '100%', mb: 2 }} />
            <Group title="How it starts an engine" columns="repeat(3, minmax(0, 1fr))">
                <Choice label="After-start fades" value={starts.fade_law ?? 'linear_time'} onChange={(value) => setStarts((old) => ({ ...old, fade_law: value as ControllerProfile['fade_law'] }))} options={Object.fromEntries(words.fade_laws.map(({ key, title }) => [key, title]))} />
                <QuantityField label="Crank to run" unit="rpm" value={starts.crank_to_run_rpm} onChange={(value) => setStarts((old) => ({ ...old, crank_to_run_rpm: value }))} help="empty where it can be set" />
                <QuantityField label="Cranking fuel falls to half in" unit="turns" value={starts.cranking_half_turns} onChange={(value) => setStarts((old) => ({ ...old, cranking_half_turns: value }))} help="empty where it stays" />
            </Group>
            <Typography variant="body2" sx={{ mb: 1 }}>
                Tick the tables it has. Whatever leaves for it is put on its points and rounded to its steps.
            </Typography>
            <Box component="table" aria-label="Tables it holds" sx={{ borderCollapse: 'collapse', width: '100%', '& td, & th': { borderBottom: 1, borderColor: 'divider', py: 0.25, px: 0.5, verticalAlign: 'top' }, '& th': { textAlign: 'left', color: 'text.secondary', fontWeight: 600 } }}>
                <thead>
                    <tr>
                        <th aria-label="It has it" />
                        <th>Table</th>
                        <th>Unit</th>
                        <th>Step</th>
                        <th>Axis</th>
                        <th>Points at most</th>
                        <th>Fixed at</th>
                    </tr>
                </thead>
                <tbody>
                    {tables.map((table) => (
                        <Row key={table.key} table={table} onChange={(part) => change(table.key, part)} />
                    ))}
                </tbody>
            </Box>
        </Box>
    );
}

function Row({ table, onChange }: { table: TableDraft; onChange: (part: Partial<TableDraft>) => void }) {
    const { vocabulary } = useJob();
    const title = vocabulary.tables.find(({ key }) => key === table.key)?.title ?? table.key;
    const setAxis = (at: number, part: Partial<AxisDraft>) => onChange({ axes: table.axes.map((axis, i) => (i === at ? { ...axis, ...part } : axis)) });
    const axes = table.axes.map((axis) => ({ ...axis, shown: vocabulary.axes.find(({ name }) => name === axis.name) }));
    return (
        <Box component="tr" sx={{ opacity: table.held ? 1 : 0.75 }}>
            <td>
                <Checkbox size="small" checked={table.held} onChange={(event) => onChange({ held: event.target.checked })} slotProps={{ input: { 'aria-label': `${title}: it has it` } }} sx={{ p: 0.5 }} />
            </td>
            <Box component="td" sx={{ lineHeight: 1.8 }}>
                {title}
            </Box>
            <td>{table.held && <Small label={`${title}: unit`} value={table.unit} width={70} onChange={(unit) => onChange({ unit })} />}</td>
            <td>{table.held && <Small label={`${title}: step`} value={table.step} width={70} isWrong={parseNumber(table.step) === null} onChange={(step) => onChange({ step })} />}</td>
            <Box component="td" sx={{ lineHeight: 1.8, whiteSpace: 'nowrap' }}>
                {axes.map(({ name, shown }) => (
                    <div key={name}>{shown ? `${shown.title}, ${shown.unit}` : name}</div>
                ))}
            </Box>
            <td>
                {table.held && axes.map(({ name, shown, most }, i) => <Small key={name} label={`${title}: points of ${shown?.title ?? name}`} value={most} width={70} isWrong={parseNumber(most) === null} onChange={(text) => setAxis(i, { most: text })} />)}
            </td>
            <Box component="td" sx={{ width: '30%' }}>
                {table.held && axes.map(({ name, shown, points }, i) => <Small key={name} label={`${title}: fixed at, ${shown?.title ?? name}`} value={points} placeholder="free" isWrong={numbersOf(points) === null} onChange={(text) => setAxis(i, { points: text })} />)}
            </Box>
        </Box>
    );
}

interface SmallProps {
    label: string;
    value: string;
    width?: number;
    placeholder?: string;
    isWrong?: boolean;
    onChange: (text: string) => void;
}

/** A field in a row of a list. */
function Small({ label, value, width, placeholder, isWrong = false, onChange }: SmallProps) {
    return (
        <InputBase
            value={value}
            error={isWrong}
            placeholder={placeholder ?? ''}
            onChange={(event) => onChange(event.target.value)}
            slotProps={{ input: { 'aria-label': label, 'aria-invalid': isWrong, autoComplete: 'off' } }}
            sx={{ display: 'block', width: width ?? '100%', lineHeight: 1.8, border: 1, borderColor: isWrong ? 'error.main' : 'divider', px: 0.75, mb: 0.25, '& input': { py: 0.25 } }}
        />
    );
}
