import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { Link } from 'react-router';

import type { Hardware, Schemas, SensorRow } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { inUnits } from '../../units/said';
import { Caution, FUEL_CAUTION } from '../../parts/Caution';
import { Mark } from '../../parts/Mark';
import { moment } from '../../parts/when';
import { KeyOnForm } from './KeyOnForm';
import { KeyOnResult } from './KeyOnResult';

interface Props {
    hardware: Hardware;
    sensors: SensorRow[];
    keyOn: Schemas['KeyOnOut'];
}

/** Key on, engine at rest: is every sensor believable? */
export function KeyOnSheet({ hardware, sensors, keyOn }: Props) {
    const { job } = useJob();
    const [newest, ...older] = keyOn.checks;
    return (
        <WithMargin
            margin={
                <>
                    <Typography variant="h3" sx={{ mb: 0.5 }}>
                        Gate of the first start
                    </Typography>
                    <Typography sx={{ color: keyOn.gate.is_open ? 'primary.main' : keyOn.gate.is_refused ? 'error.main' : 'warning.main', fontWeight: 650 }}>
                        {keyOn.gate.is_open ? 'Open' : 'Closed'}
                    </Typography>
                    <Typography variant="body2" sx={{ mb: 2 }}>
                        {inUnits(keyOn.gate.is_open ? keyOn.gate.sentence : keyOn.gate.closed_until)}
                    </Typography>
                    {older.length > 0 && (
                        <>
                            <Typography variant="h3" sx={{ mb: 0.5 }}>
                                Earlier checks
                            </Typography>
                            {older.map((check) => (
                                <Box key={check.number} sx={{ mb: 1 }}>
                                    <Mark state={check.state} />
                                    <Typography variant="caption" component="p">
                                        Check {check.number}, {moment(check.created_at)}, {check.created_by}
                                    </Typography>
                                    {check.override_reason && (
                                        <Typography variant="body2">Overridden: {check.override_reason}</Typography>
                                    )}
                                </Box>
                            ))}
                        </>
                    )}
                </>
            }
        >
            <Typography variant="h1" sx={{ mb: 1 }}>
                Key-on check
            </Typography>
            {sensors.length === 0 ? (
                <Typography sx={{ mb: 2 }}>
                    No sensor is entered yet. <Link to={`/jobs/${job.id}/sensors`}>Enter the sensors</Link> first.
                </Typography>
            ) : (
                <>
                    <Caution>{FUEL_CAUTION}</Caution>
                    {newest && <KeyOnResult key={newest.number} check={newest} />}
                    <KeyOnForm hardware={hardware} sensors={sensors} known={keyOn.known} last={newest} />
                </>
            )}
        </WithMargin>
    );
}
