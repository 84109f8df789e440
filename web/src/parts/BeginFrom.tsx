import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';

import { client, unwrap } from '../api/client';
import { hardwareQuery } from '../api/hardware';

interface Props<Part> {
    what: string;
    items: { id: number | null; name: string; part: Part }[];
    onChoose: (part: Part) => void;
}

/** A part of the library to begin from: the workshop's own first, then what ships. */
export function BeginFrom<Part>({ what, items, onChoose }: Props<Part>) {
    const queryClient = useQueryClient();
    const drop = useMutation({
        mutationFn: (item_id: number) => unwrap(client.DELETE('/api/library/{item_id}', { params: { path: { item_id } } })),
        onSuccess: () => queryClient.invalidateQueries({ queryKey: hardwareQuery.queryKey }),
    });
    return (
        <TextField
            select
            label="Begin from"
            value=""
            onChange={(event) => {
                const chosen = items[Number(event.target.value)];
                if (chosen) onChoose(chosen.part);
            }}
            slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true, renderValue: () => what } }}
        >
            {items.map((item, i) => (
                <MenuItem key={`${item.id ?? 'generic'}.${item.name}`} value={String(i)} sx={{ gap: 2, justifyContent: 'space-between' }}>
                    {item.id === null ? item.name : `Own: ${item.name}`}
                    {item.id !== null && (
                        <Button
                            size="small"
                            aria-label={`Drop ${item.name} from the library`}
                            onClick={(event) => {
                                event.stopPropagation();
                                if (item.id !== null) drop.mutate(item.id);
                            }}
                        >
                            Drop
                        </Button>
                    )}
                </MenuItem>
            ))}
            {!items.length && <MenuItem disabled>nothing yet</MenuItem>}
        </TextField>
    );
}
