import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Typography from '@mui/material/Typography';
import { useMutation } from '@tanstack/react-query';
import { useState, type ChangeEvent } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { multipart } from '../../api/multipart';
import { ProblemNote } from '../../parts/ProblemNote';
import { visuallyHidden } from '../../parts/visuallyHidden';

type Part = Schemas['PartBesideOut'];

const KINDS: Record<Part['kind'], string> = { sensor: 'Sensor', injectors: 'Injectors', supply: 'Fuel supply' };
const CELL = { textAlign: 'left', verticalAlign: 'top', py: 0.25, pr: 2, borderTop: 1, borderColor: 'divider', overflowWrap: 'anywhere' } as const;

/** Parts that the workshop keeps, as a file: to pass on, and to take from others, each beside one's own. */
export function Parts() {
    const [file, setFile] = useState<File | null>(null);
    const [chosen, setChosen] = useState<number[]>([]);
    const look = useMutation({
        mutationFn: (brought: File) => unwrap(client.POST('/api/library/file/look', multipart({ file: brought }))),
        onSuccess: (parts) => setChosen(parts.filter(({ state }) => state === 'new').map(({ number }) => number)),
    });
    const take = useMutation({
        mutationFn: (brought: File) => unwrap(client.POST('/api/library/file/take', multipart({ file: brought, numbers: JSON.stringify(chosen) }))),
        onSuccess: () => look.reset(),
    });
    const bring = (brought: File | undefined) => {
        if (!brought) return;
        setFile(brought);
        take.reset();
        look.mutate(brought);
    };
    const flip = (number: number) => setChosen(chosen.includes(number) ? chosen.filter((one) => one !== number) : [...chosen, number]);
    return (
        <Box component="section" aria-label="Parts" sx={{ my: 4 }}>
            <Typography variant="h2">Parts of this workshop</Typography>
            <Typography sx={{ mb: 1 }}>Sensors, injectors and pumps that were kept for the next job, with where their data come from.</Typography>
            <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
                <Button component="a" href="/api/library/file" download variant="outlined">
                    Save as a file
                </Button>
                <Button component="label" role={undefined} tabIndex={-1} variant="outlined">
                    Bring a file of parts
                    <Box component="input" type="file" accept=".json" aria-label="File of parts" sx={visuallyHidden} onChange={(event: ChangeEvent<HTMLInputElement>) => bring(event.target.files?.[0])} />
                </Button>
            </Box>
            {look.error && <ProblemNote error={look.error} />}
            {take.error && <ProblemNote error={take.error} />}
            {take.data && <Typography role="status">{take.data.taken === 1 ? 'One part is kept.' : `${take.data.taken} parts are kept.`}</Typography>}
            {look.data?.map((part) => <PartRow key={part.number} part={part} isChosen={chosen.includes(part.number)} onFlip={() => flip(part.number)} />)}
            {look.data && file && (
                <Button variant="contained" sx={{ mt: 1, minHeight: 44 }} disabled={!chosen.length || take.isPending} onClick={() => take.mutate(file)}>
                    {chosen.length > 1 ? `Keep these ${chosen.length} parts` : 'Keep this part'}
                </Button>
            )}
        </Box>
    );
}

function PartRow({ part, isChosen, onFlip }: { part: Part; isChosen: boolean; onFlip: () => void }) {
    const name = `${KINDS[part.kind]}: ${part.name}`;
    const said = { new: 'Not kept yet', same: 'Kept already, the same', differs: 'Kept already, and differs: keeping this one replaces it' }[part.state];
    return (
        <Box sx={{ mt: 1.5 }}>
            <FormControlLabel control={<Checkbox checked={isChosen} onChange={onFlip} disabled={part.state === 'same'} />} label={<b>{name}</b>} />
            <Typography variant="body2">
                {said}. {part.source ? `Source: ${part.source}.` : 'No source is named.'} {part.licence ? `Licence: ${part.licence}.` : 'No licence is named.'}
            </Typography>
            {part.differs.length > 0 && (
                <Box component="table" aria-label={`${name}, side by side`} sx={{ width: '100%', tableLayout: 'fixed', borderCollapse: 'collapse', fontSize: '0.9rem' }}>
                    <thead>
                        <tr>
                            {['', 'in the file', 'as kept'].map((head) => (
                                <Box component="th" scope="col" key={head} sx={{ ...CELL, borderTop: 0 }}>
                                    {head}
                                </Box>
                            ))}
                        </tr>
                    </thead>
                    <tbody>
                        {part.differs.map(({ field, file, own }) => (
                            <tr key={field}>
                                <Box component="th" scope="row" sx={CELL}>
                                    {field}
                                </Box>
                                <Box component="td" sx={CELL}>
                                    {file}
                                </Box>
                                <Box component="td" sx={CELL}>
                                    {own}
                                </Box>
                            </tr>
                        ))}
                    </tbody>
                </Box>
            )}
        </Box>
    );
}
