import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Schemas } from '../../api/client';
import { multipart } from '../../api/multipart';
import { intakeQuery } from './api';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { moment } from '../../parts/when';

/** Photographs of the car as it came; they stay in the job. */
export function PhotographSheet({ photographs }: { photographs: Schemas['PhotographOut'][] }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const [caption, setCaption] = useState('');
    const [showsAside, setShowsAside] = useState(false);
    const [large, setLarge] = useState<number | null>(null);
    const again = () => queryClient.invalidateQueries({ queryKey: intakeQuery(job.id).queryKey });
    const add = useMutation({
        mutationFn: async (files: File[]) => {
            for (const file of files) {
                await unwrap(client.POST('/api/jobs/{job_id}/photographs', { params: { path: { job_id: job.id } }, ...multipart({ file, caption }) }));
            }
        },
        onSettled: async () => {
            setCaption('');
            await again();
        },
    });
    const aside = useMutation({
        mutationFn: ({ number, on }: { number: number; on: boolean }) =>
            unwrap(client.POST('/api/jobs/{job_id}/photographs/{number}/aside', { params: { path: { job_id: job.id, number } }, body: { aside: on } })),
        onSuccess: again,
    });
    const shown = photographs.filter((photograph) => showsAside || !photograph.aside);
    const hidden = photographs.length - photographs.filter((photograph) => !photograph.aside).length;
    return (
        <Box sx={{ p: 2 }}>
            <Stack direction="row" sx={{ gap: 1, alignItems: 'center', mb: 2, flexWrap: 'wrap' }}>
                <Typography variant="h1" sx={{ flex: 1 }}>
                    Photographs
                </Typography>
                <TextField label="Caption" value={caption} onChange={(event) => setCaption(event.target.value)} sx={{ width: 280 }} />
                <AddPhotographs isBusy={add.isPending} onFiles={add.mutate} />
            </Stack>
            {add.error && <ProblemNote error={add.error} />}
            {photographs.length === 0 && <Typography>None yet: take the engine bay, the injectors’ numbers, the wheel and its sensor, the loom, the plate of the controller.</Typography>}
            <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(230px, 1fr))', gap: 2 }}>
                {shown.map((photograph) => (
                    <Photograph
                        key={photograph.number}
                        photograph={photograph}
                        isLarge={large === photograph.number}
                        onLarge={(on) => setLarge(on ? photograph.number : null)}
                        onAside={(on) => aside.mutate({ number: photograph.number, on })}
                    />
                ))}
            </Box>
            {hidden > 0 && (
                <Button size="small" sx={{ mt: 1 }} onClick={() => setShowsAside((old) => !old)}>
                    {showsAside ? 'Hide' : 'Show'} {hidden} put aside
                </Button>
            )}
        </Box>
    );
}

/** Photographs to add, from the tablet's camera or a folder. */
function AddPhotographs({ isBusy, onFiles }: { isBusy: boolean; onFiles: (files: File[]) => void }) {
    return (
        <Button component="label" variant="contained" disabled={isBusy}>
            {isBusy ? 'Keeping …' : 'Add photographs'}
            <input
                type="file"
                hidden
                multiple
                accept="image/jpeg,image/png,image/webp"
                aria-label="Photographs"
                onChange={(event) => {
                    const files = [...(event.target.files ?? [])];
                    if (files.length) onFiles(files);
                    event.target.value = '';
                }}
            />
        </Button>
    );
}

interface PhotographProps {
    photograph: Schemas['PhotographOut'];
    isLarge: boolean;
    onLarge: (on: boolean) => void;
    onAside: (on: boolean) => void;
}

/** One photograph, small or large. */
function Photograph({ photograph, isLarge, onLarge, onAside }: PhotographProps) {
    const { job } = useJob();
    return (
        <Box component="figure" sx={{ m: 0, opacity: photograph.aside ? 0.5 : 1, gridColumn: isLarge ? '1 / -1' : 'auto' }}>
            <Box
                component="button"
                onClick={() => onLarge(!isLarge)}
                aria-label={isLarge ? 'Make it small' : 'Make it large'}
                sx={{ border: 1, borderColor: 'divider', p: 0, width: '100%', bgcolor: 'background.paper', cursor: 'zoom-in', display: 'block' }}
            >
                <Box
                    component="img"
                    src={`/api/jobs/${job.id}/photographs/${photograph.number}`}
                    alt={photograph.caption || `Photograph ${photograph.number}`}
                    loading="lazy"
                    sx={{ width: '100%', height: isLarge ? 'auto' : 170, objectFit: isLarge ? 'contain' : 'cover', display: 'block' }}
                />
            </Box>
            <Box component="figcaption" sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
                <Typography variant="body2" sx={{ flex: 1 }}>
                    {photograph.caption || `Photograph ${photograph.number}`}
                    <Box component="span" sx={{ color: 'text.secondary', display: 'block', fontSize: '0.84rem' }}>
                        {photograph.author}, {moment(photograph.created_at)}
                    </Box>
                </Typography>
                <Button size="small" onClick={() => onAside(!photograph.aside)}>
                    {photograph.aside ? 'Bring back' : 'Put aside'}
                </Button>
            </Box>
        </Box>
    );
}
