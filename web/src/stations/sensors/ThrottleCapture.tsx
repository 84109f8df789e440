import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import { client, unwrap } from '../../api/client';
import { fieldProblem } from '../../parts/fieldProblem';
import type { Row } from '../../parts/PointGrid';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import { useComputed } from '../../parts/useComputed';

/** The two ends of the throttle, read with the foot off the pedal and on the floor. */
export function ThrottleCapture({ onTake }: { onTake: (points: Row[], deadZone: number) => void }) {
    const [closed, setClosed] = useState<number | null>(null);
    const [open, setOpen] = useState<number | null>(null);
    const [deadZone, setDeadZone] = useState<number | null>(1);
    const body = closed === null || open === null ? null : { closed_v: closed, open_v: open, dead_zone_pct: deadZone ?? 0 };
    const capture = useComputed('throttle', body, (asked) => unwrap(client.POST('/api/throttle-capture', { body: asked })));
    const answer = body && !capture.error ? capture.data : undefined;
    const problem = (name: string) => (body ? fieldProblem([capture.error], name) : undefined);
    return (
        <Box sx={{ mb: 2 }}>
            <Typography variant="h3" sx={{ mb: 1 }}>
                Capture both ends
            </Typography>
            <Box sx={{ display: 'grid', gap: 1.5, gridTemplateColumns: { xs: '1fr 1fr', sm: 'repeat(3, 1fr) auto' }, alignItems: 'start', mb: 1 }}>
                <QuantityField label="Foot off the pedal" unit="V" value={closed} onChange={setClosed} error={problem('closed_v')} />
                <QuantityField label="Pedal on the floor" unit="V" value={open} onChange={setOpen} error={problem('open_v')} />
                <QuantityField label="Dead zone at each end" unit="%" value={deadZone} onChange={setDeadZone} error={problem('dead_zone_pct')} />
                <Button
                    variant="outlined"
                    sx={{ minHeight: 40 }}
                    disabled={!answer}
                    onClick={() => answer && onTake((answer.entry.points ?? []).map((point) => [...point]), deadZone ?? 0)}
                >
                    Use these ends
                </Button>
            </Box>
            {answer && <Sentences sentences={answer.sentences} level={answer.level === 'good' ? 'good' : 'attention'} />}
        </Box>
    );
}
