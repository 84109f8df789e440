import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import InputBase from '@mui/material/InputBase';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { client, unwrap, type Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { Group } from '../../parts/Group';
import { ProblemNote } from '../../parts/ProblemNote';
import { inUnits } from '../../units/said';

type Intake = Schemas['IntakeOut'];
type Item = Schemas['IntakeItem'];

const WORDS: [keyof Pick<Intake['entry'], 'complaint' | 'came_with' | 'fuel_available' | 'firmware'>, string, number][] = [
    ['complaint', 'Complaint, in the owner’s words', 2],
    ['came_with', 'What came with the car: loom, files, papers, parts', 2],
    ['fuel_available', 'Fuel sold locally', 1],
    ['firmware', 'Controller and its firmware', 1],
];

/** What was claimed, what is really there, and what is known besides. */
export function FittedForm({ intake }: { intake: Intake }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [entry, setEntry] = useState(intake.entry);
    const save = useMutation({
        mutationFn: () =>
            unwrap(client.POST('/api/jobs/{job_id}/intake', { params: { path: { job_id: job.id } }, body: { entry, based_on: intake.number } })),
        onSuccess: () => refresh(queryClient, job.id, 'intake'),
    });
    const itemOf = (key: string): Item => entry.items.find((item) => item.key === key) ?? { key, claimed: '', fitted: '', differs: false, note: '' };
    const change = (key: string, part: Partial<Item>) =>
        setEntry((old) => {
            const next = { ...itemOf(key), ...part };
            return { ...old, items: [...old.items.filter((item) => item.key !== key), next].filter((item) => item.claimed || item.fitted || item.note || item.differs) };
        });
    const isChanged = JSON.stringify(entry) !== JSON.stringify(intake.entry);
    const cell = { border: '1px solid', borderColor: 'divider', p: 0 } as const;
    return (
        <WithMargin margin={<Differences intake={intake} />}>
            <Stack direction="row" sx={{ alignItems: 'center', mb: 1.5, gap: 1.5 }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Intake
                </Typography>
                <Typography variant="body2" color="text.secondary">
                    {isChanged ? 'changed, not saved' : intake.number ? `saved, version ${intake.number}` : 'nothing written yet'}
                </Typography>
                <Button variant="contained" disabled={!isChanged || save.isPending} onClick={() => save.mutate()}>
                    Save
                </Button>
            </Stack>
            {save.error && <ProblemNote error={save.error} />}
            <Group title="The car" columns="1fr 1fr">
                {WORDS.map(([name, label, rows]) => (
                    <TextField key={name} label={label} multiline minRows={rows} value={entry[name]} onChange={(event) => setEntry((old) => ({ ...old, [name]: event.target.value }))} />
                ))}
            </Group>
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                Fitted against claimed
            </Typography>
            <FittedTable intake={intake} itemOf={itemOf} cell={cell} change={change} />
            <Typography variant="h3" component="h2">
                Inputs switched on in the controller
            </Typography>
            <Typography variant="body2" sx={{ mb: 0.5 }}>
                The review says which of them are not wired.
            </Typography>
            <InputsOn intake={intake} entry={entry} onEntry={setEntry} />
        </WithMargin>
    );
}

/** Which inputs are switched on in the controller. */
function InputsOn({ intake, entry, onEntry }: { intake: Intake; entry: Intake['entry']; onEntry: (change: (old: Intake['entry']) => Intake['entry']) => void }) {
    return (
        <Box sx={{ columns: { xs: 1, sm: 3 } }}>
            {Object.entries(intake.inputs).map(([key, title]) => (
                <FormControlLabel
                    key={key}
                    sx={{ display: 'flex', breakInside: 'avoid' }}
                    control={
                        <Checkbox
                            size="small"
                            sx={{ py: 0.25 }}
                            checked={entry.configured_inputs.includes(key)}
                            onChange={(event) =>
                                onEntry((old) => ({
                                    ...old,
                                    configured_inputs: event.target.checked ? [...old.configured_inputs, key] : old.configured_inputs.filter((name) => name !== key),
                                }))
                            }
                        />
                    }
                    label={title}
                />
            ))}
        </Box>
    );
}

interface FittedTableProps {
    intake: Intake;
    itemOf: (key: string) => Item;
    cell: { readonly border: '1px solid'; readonly borderColor: 'divider'; readonly p: 0; };
    change: (key: string, part: Partial<Item>) => void;
}

/** What was claimed beside what was found, part by part. */
function FittedTable({ intake, itemOf, cell, change }: FittedTableProps) {
    return (
        <Box component="table" aria-label="Fitted against claimed" sx={{ borderCollapse: 'collapse', width: '100%', mb: 2, '& th': { textAlign: 'left', fontWeight: 600, color: 'text.secondary', px: 1, py: 0.5, fontSize: '0.9rem' } }}>
            <thead>
                <tr>
                    <th>what</th>
                    <th>claimed</th>
                    <th>found on the car</th>
                    <th>differs</th>
                </tr>
            </thead>
            <tbody>
                {intake.items.map(({ key, title }) => {
                    const item = itemOf(key);
                    return (
                        <tr key={key}>
                            <Box component="td" sx={{ ...cell, px: 1, width: 170, bgcolor: item.differs ? 'transparent' : undefined, fontWeight: item.differs ? 700 : 400 }}>
                                {title}
                            </Box>
                            {(['claimed', 'fitted'] as const).map((name) => (
                                <Box component="td" key={name} sx={cell}>
                                    <InputBase
                                        fullWidth
                                        multiline
                                        value={item[name]}
                                        onChange={(event) => change(key, { [name]: event.target.value })}
                                        inputProps={{ 'aria-label': `${title}, ${name === 'claimed' ? 'claimed' : 'found on the car'}` }}
                                        sx={{ px: 1, py: 0.5, bgcolor: 'background.paper', minHeight: 38, height: '100%' }}
                                    />
                                </Box>
                            ))}
                            <Box component="td" sx={{ ...cell, textAlign: 'center', width: 70 }}>
                                <Checkbox size="small" checked={item.differs} onChange={(event) => change(key, { differs: event.target.checked })} slotProps={{ input: { 'aria-label': `${title} differs` } }} />
                            </Box>
                        </tr>
                    );
                })}
            </tbody>
        </Box>
    );
}

function Differences({ intake }: { intake: Intake }) {
    const { job, vocabulary } = useJob();
    return (
        <>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                What is not as claimed
            </Typography>
            {intake.differences.length === 0 && <Typography variant="body2">Nothing is written down that differs. Look before you believe it.</Typography>}
            {intake.differences.map((difference) => {
                const station = vocabulary.stations.find(({ key }) => key === difference.station);
                return (
                    <Box key={difference.key} sx={{ borderLeft: 4, borderColor: difference.looked_at ? 'warning.main' : 'divider', pl: 1, mb: 1 }}>
                        <Typography variant="body2">{inUnits(difference.sentence)}</Typography>
                        {station && (
                            <Typography variant="caption">
                                Matters at <Link to={`/jobs/${job.id}/${station.key}`}>station {station.number}, {station.title.toLowerCase()}</Link>
                            </Typography>
                        )}
                    </Box>
                );
            })}
        </>
    );
}
