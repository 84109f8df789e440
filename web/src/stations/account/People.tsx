import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { fieldProblem } from '../../parts/fieldProblem';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { giveRole, letGo, peopleQuery, takeIn, type NewPerson, type Person, type Role, type RoleChoices } from './api';

/** Who works in the workshop; an owner takes people in, gives them a role and lets them go. */
export function People({ rules }: { rules: boolean }) {
    const queryClient = useQueryClient();
    const people = useQuery(peopleQuery);
    const again = () => queryClient.invalidateQueries({ queryKey: peopleQuery.queryKey });
    const role = useMutation({ mutationFn: giveRole, onSuccess: again });
    const leave = useMutation({ mutationFn: letGo, onSuccess: again });
    const error = role.error ?? leave.error;
    if (!people.data) return people.error ? <ProblemNote error={people.error} /> : <Loading what="Fetching who works here" />;
    const { roles } = people.data;
    return (
        <Box component="section" aria-label="Who works here" sx={{ mb: 4 }}>
            <Typography variant="h2">Who works here</Typography>
            {roles.map(({ key, title, said }) => (
                <Typography key={key} variant="body2">
                    <strong>{title}</strong> {said}.
                </Typography>
            ))}
            <Box component="ul" sx={{ listStyle: 'none', p: 0, my: 1.5 }}>
                {people.data.people.map((person) => (
                    <Row key={person.id} person={person} roles={roles} rules={rules} onRole={(to) => role.mutate({ id: person.id, role: to })} onLeave={() => leave.mutate(person.id)} />
                ))}
            </Box>
            {error && <ProblemNote error={error} />}
            {rules && <NewPersonForm roles={roles} onDone={again} />}
        </Box>
    );
}

interface RowProps {
    person: Person;
    roles: RoleChoices;
    rules: boolean;
    onRole: (role: Role) => void;
    onLeave: () => void;
}

function Row({ person, roles, rules, onRole, onLeave }: RowProps) {
    return (
        <Box component="li" sx={{ display: 'flex', gap: 2, alignItems: 'center', borderBottom: 1, borderColor: 'divider', py: 0.75 }}>
            <Typography sx={{ flex: 1, fontWeight: 650 }}>
                {person.username}
                {person.is_you && ' (you)'}
            </Typography>
            {rules ? (
                <RoleChoice label={`Role of ${person.username}`} roles={roles} value={person.role} onChange={onRole} />
            ) : (
                <Typography>{roles.find(({ key }) => key === person.role)?.title}</Typography>
            )}
            {rules && (
                <Box sx={{ width: 72 }}>
                    {!person.is_you && (
                        <Button size="small" onClick={onLeave} aria-label={`Let go: ${person.username}`}>
                            Let go
                        </Button>
                    )}
                </Box>
            )}
        </Box>
    );
}

interface RoleChoiceProps {
    label: string;
    roles: RoleChoices;
    value: Role;
    onChange: (role: Role) => void;
}

function RoleChoice({ label, roles, value, onChange }: RoleChoiceProps) {
    return (
        <TextField select size="small" label={label} value={value} onChange={(event) => onChange(event.target.value as Role)} sx={{ minWidth: 150 }}>
            {roles.map(({ key, title }) => (
                <MenuItem key={key} value={key}>
                    {title}
                </MenuItem>
            ))}
        </TextField>
    );
}

const NOBODY: NewPerson = { username: '', password: '', role: 'apprentice' };

function NewPersonForm({ roles, onDone }: { roles: RoleChoices; onDone: () => void }) {
    const [typed, setTyped] = useState(NOBODY);
    const take = useMutation({
        mutationFn: takeIn,
        onSuccess: () => {
            setTyped(NOBODY);
            onDone();
        },
    });
    const set = (part: Partial<NewPerson>) => setTyped({ ...typed, ...part });
    const problem = (field: string) => fieldProblem([take.error], field);
    return (
        <Stack
            component="form"
            direction="row"
            sx={{ gap: 1, flexWrap: 'wrap', alignItems: 'flex-start' }}
            onSubmit={(event) => {
                event.preventDefault();
                take.mutate(typed);
            }}
        >
            <TextField size="small" label="Name" value={typed.username} onChange={(event) => set({ username: event.target.value })} error={Boolean(problem('username'))} helperText={problem('username')} />
            <TextField size="small" label="First password" value={typed.password} onChange={(event) => set({ password: event.target.value })} error={Boolean(problem('password'))} helperText={problem('password') ?? 'Tell it to them; they change it here.'} />
            <RoleChoice label="Role" roles={roles} value={typed.role} onChange={(role) => set({ role })} />
            <Button type="submit" variant="contained" disabled={!typed.username.trim() || !typed.password || take.isPending}>
                Take in
            </Button>
        </Stack>
    );
}
