import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useState } from 'react';

import { client, unwrap, type Sensor } from '../../api/client';
import { formatNumber } from '../../units/units';
import { fieldProblem } from '../../parts/fieldProblem';
import { QuantityField } from '../../parts/QuantityField';
import { useComputed } from '../../parts/useComputed';

/** A frequency at a speed: what the sensor says, and what the engine is fuelled by. */
export function EthanolTry({ sensor }: { sensor: Sensor }) {
    const [signal, setSignal] = useState<number | null>(null);
    const [rpm, setRpm] = useState<number | null>(800);
    const [last, setLast] = useState<number | null>(0);
    const body = signal === null ? null : { signal_hz: signal, rpm: rpm ?? 0, last_pct: last ?? 0, freeze_rpm: sensor.freeze_rpm, sensor };
    const share = useComputed('ethanol', body, (asked) => unwrap(client.POST('/api/ethanol-share', { body: asked })));
    const problem = (name: string) => (body ? fieldProblem([share.error], name) : undefined);
    return (
        <Box component="section" aria-label="Try a reading" sx={{ mb: 2 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Try a reading
            </Typography>
            <Box sx={{ display: 'grid', gap: 1.5, gridTemplateColumns: { xs: '1fr', sm: 'repeat(3, 1fr)' }, maxWidth: 620 }}>
                <QuantityField label="Frequency" unit="Hz" value={signal} onChange={setSignal} error={problem('signal_hz')} />
                <QuantityField label="At" unit="rpm" value={rpm} onChange={setRpm} error={problem('rpm')} />
                <QuantityField label="In use until then" unit="%" value={last} onChange={setLast} error={problem('last_pct')} />
            </Box>
            {body && share.data && !share.error && (
                <Typography sx={{ mt: 1 }} role="status">
                    The sensor says {formatNumber(share.data.read_pct, 0)} % ethanol; fuelled by{' '}
                    {formatNumber(share.data.in_use_pct, 0)} %{share.data.frozen ? ', kept from before' : ''}.
                </Typography>
            )}
        </Box>
    );
}
