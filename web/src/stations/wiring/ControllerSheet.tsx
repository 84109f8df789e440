import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type ControllerProfile, type Schemas, type WiringVocabulary } from '../../api/client';
import { multipart } from '../../api/multipart';
import { controllersQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { ProblemNote } from '../../parts/ProblemNote';
import { Sentences } from '../../parts/Sentences';
import { SmallTable } from '../../parts/SmallTable';
import { ControllerTables } from './ControllerTables';
import type { WiringWork } from './useWiring';

interface Props {
    work: WiringWork;
    words: WiringVocabulary;
    controllers: Schemas['ControllerOut'][];
}

const EXAMPLE = 'pin\tability\tpull-up\tcurrent\nA1\tbattery supply\nA2\tanalogue input\t2490 ohm\nB1\tinjector\t\t4 A';

/** Controllers that can be chosen: those that ship, the workshop's own, and making one of a pin list. */
export function ControllerSheet({ work, words, controllers }: Props) {
    const queryClient = useQueryClient();
    const [name, setName] = useState('');
    const [text, setText] = useState('');
    const [editing, setEditing] = useState<Schemas['ControllerOut'] | null>(null);
    const refresh = () => queryClient.invalidateQueries({ queryKey: controllersQuery.queryKey });
    const read = useMutation({ mutationFn: () => unwrap(client.POST('/api/controllers/pin-list', { body: { name, text } })) });
    const keep = useMutation({
        mutationFn: (profile: ControllerProfile) => unwrap(client.POST('/api/controllers', { body: { profile } })),
        onSuccess: (kept) => {
            setText('');
            setEditing(null);
            read.reset();
            work.setController(kept.key);
            return refresh();
        },
    });
    const bring = useMutation({
        mutationFn: (file: File) => unwrap(client.POST('/api/controllers/import', multipart({ file }))),
        onSuccess: refresh,
    });
    const drop = useMutation({
        mutationFn: (item_id: number) => unwrap(client.DELETE('/api/library/{item_id}', { params: { path: { item_id } } })),
        onSuccess: refresh,
    });
    if (editing) {
        return (
            <Box sx={{ p: 2, flex: 1, minWidth: 0, overflow: 'auto' }}>
                {keep.error && <ProblemNote error={keep.error} />}
                <ControllerTables key={editing.key} profile={editing.profile} isOwn={editing.library_id !== null} words={words} isKeeping={keep.isPending} onKeep={keep.mutate} onClose={() => setEditing(null)} />
            </Box>
        );
    }
    return (
        <WithMargin margin={<Abilities profile={read.data?.profile ?? controllers.find(({ key }) => key === work.controller)?.profile ?? work.wiring.profile} words={words} />}>
            <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mb: 1.5, flexWrap: 'wrap' }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Controllers
                </Typography>
                <BringProfile isReading={bring.isPending} onFile={bring.mutate} />
                <Button component="a" href="/api/controllers/schema.json">
                    JSON Schema
                </Button>
            </Stack>
            {bring.error && <ProblemNote error={bring.error} />}
            {drop.error && <ProblemNote error={drop.error} />}
            <Box component="ul" sx={{ listStyle: 'none', p: 0, m: 0, mb: 3 }}>
                {controllers.map((controller) => (
                    <ControllerLine key={controller.key} controller={controller} work={work} onDrop={drop.mutate} onTables={() => setEditing(controller)} />
                ))}
            </Box>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Make one from a pin list
            </Typography>
            <Typography variant="body2" sx={{ mb: 1.5 }}>
                Copy the list from the manual or a spreadsheet with its heading. A column for the pin and one for what it can do are
                enough; connector, pull-up, current, frequency range, row, column, fixed function and note are read where they are there.
            </Typography>
            <PinList
                name={name}
                text={text}
                isReading={read.isPending}
                onRead={() => read.mutate()}
                isKeeping={keep.isPending}
                onName={setName}
                onText={setText}
                profile={read.data?.profile}
                onKeep={keep.mutate}
            />
            {read.error && <ProblemNote error={read.error} />}
            {keep.error && <ProblemNote error={keep.error} />}
            {read.data && <Sentences sentences={read.data.sentences} level={read.data.sentences.length > 2 ? 'attention' : 'good'} />}
        </WithMargin>
    );
}

interface PinListProps {
    name: string;
    text: string;
    isReading: boolean;
    onRead: () => void;
    isKeeping: boolean;
    onName: (name: string) => void;
    onText: (text: string) => void;
    profile: ControllerProfile | undefined;
    onKeep: (profile: ControllerProfile) => void;
}

/** The list, read and kept. */
function PinList({ name, text, isReading, onRead, isKeeping, onName, onText, profile, onKeep }: PinListProps) {
    return (
        <Stack sx={{ gap: 1.5, mb: 2 }}>
            <TextField label="Name of the controller" value={name} onChange={(event) => onName(event.target.value)} sx={{ maxWidth: 380 }} />
            <TextField label="Pin list" value={text} onChange={(event) => onText(event.target.value)} placeholder={EXAMPLE} multiline minRows={5} maxRows={14} fullWidth slotProps={{ inputLabel: { shrink: true } }} />
            <Stack direction="row" sx={{ gap: 1.5 }}>
                <Button variant="outlined" disabled={!text.trim() || isReading} onClick={onRead}>
                    Read it
                </Button>
                {profile && (
                    <Button variant="contained" disabled={isKeeping || !name.trim()} onClick={() => onKeep({ ...profile, name: name.trim() })}>
                        Keep this controller
                    </Button>
                )}
            </Stack>
        </Stack>
    );
}

interface ControllerLineProps {
    controller: Schemas['ControllerOut'];
    work: WiringWork;
    onDrop: (id: number) => void;
    onTables: () => void;
}

/** One controller: choose it, set its tables, take its file, drop it. */
function ControllerLine({ controller: { key: id, library_id, profile }, work, onDrop, onTables }: ControllerLineProps) {
    return (
        <Box component="li" sx={{ display: 'flex', gap: 1.5, alignItems: 'center', flexWrap: 'wrap', borderBottom: 1, borderColor: 'divider', py: 0.75 }}>
            <Box sx={{ flex: 1, minWidth: 260 }}>
                <Typography sx={{ fontWeight: 650 }}>
                    {library_id !== null && 'Own: '}
                    {profile.name}
                </Typography>
                <Typography variant="body2">
                    {profile.pins.length} pins on {profile.connectors.length} connector(s). {profile.note}
                </Typography>
            </Box>
            <Button size="small" variant="outlined" onClick={() => work.setController(id)} disabled={work.controller === id}>
                {work.controller === id ? 'Chosen' : 'Plan on this one'}
            </Button>
            <Button size="small" onClick={onTables}>
                Tables
            </Button>
            <Button size="small" component="a" href={`/api/controllers/${id}/file`}>
                File
            </Button>
            {library_id !== null && (
                <Button size="small" onClick={() => onDrop(library_id)}>
                    Drop
                </Button>
            )}
        </Box>
    );
}

/** A controller profile from a file. */
function BringProfile({ isReading, onFile }: { isReading: boolean; onFile: (file: File) => void }) {
    return (
        <Button variant="outlined" component="label" disabled={isReading}>
            Bring a profile
            <input
                type="file"
                hidden
                accept=".json,application/json"
                aria-label="Controller profile"
                onChange={(event) => {
                    const file = event.target.files?.[0];
                    if (file) onFile(file);
                    event.target.value = '';
                }}
            />
        </Button>
    );
}

function Abilities({ profile, words }: { profile: ControllerProfile; words: WiringVocabulary }) {
    const { vocabulary } = useJob();
    const rows = words.capabilities
        .map(({ key, title }) => [title, String(profile.pins.filter((pin) => pin.capabilities.some((entry) => entry === key)).length)])
        .filter(([, count]) => count !== '0');
    return (
        <>
            <SmallTable title={profile.name} heads={['Ability', 'pins']} rows={rows} wide />
            {profile.tables.length > 0 && (
                <SmallTable
                    title="Tables it holds"
                    heads={['Table', 'points', 'step']}
                    rows={profile.tables.map((table) => [
                        vocabulary.tables.find(({ key }) => key === table.key)?.title ?? table.key,
                        table.axes.map((axis) => axis.most_points).join(' × '),
                        `${table.step} ${table.unit}`,
                    ])}
                    wide
                />
            )}
            <Typography variant="body2">
                {profile.built_in_pressure
                    ? `Pressure sensor built in, ${profile.built_in_pressure.lower_kpa} to ${profile.built_in_pressure.upper_kpa} kPa.`
                    : 'No pressure sensor of its own.'}{' '}
                After-start fades {words.fade_laws.find(({ key }) => key === profile.fade_law)?.title}.{' '}
                {profile.cranking_half_turns ? `Cranking fuel falls to half in ${profile.cranking_half_turns} turns. ` : ''}
                {profile.crank_to_run_rpm ? `Crank to run at ${profile.crank_to_run_rpm} rpm.` : 'Crank-to-run speed can be set.'}
            </Typography>
        </>
    );
}
