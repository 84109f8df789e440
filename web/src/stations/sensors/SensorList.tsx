import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import useMediaQuery from '@mui/material/useMediaQuery';
import { Link, useNavigate } from 'react-router';

import type { Hardware, KeyOnCheck, SensorRow } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { Choice } from '../../parts/Choice';
import { Mark } from '../../parts/Mark';

interface Props {
    hardware: Hardware;
    sensors: SensorRow[];
    check: KeyOnCheck | undefined;
    chosen: string;
}

/** Every function: what is fitted for it, and how it stood in the newest check. */
export function SensorList({ hardware, sensors, check, chosen }: Props) {
    const { job } = useJob();
    const isNarrow = useMediaQuery('(max-width: 899px)');
    const navigate = useNavigate();
    if (isNarrow) {
        return (
            <Box sx={{ p: 1.5, pb: 0, display: 'grid' }}>
                <Choice
                    label="Sensor"
                    value={chosen}
                    onChange={(key) => void navigate(`/jobs/${job.id}/sensors/entered/${key}`)}
                    options={Object.fromEntries(
                        hardware.functions.map(({ key, title }) => [
                            key,
                            sensors.some((row) => row.function === key) ? title : `${title} (not entered)`,
                        ]),
                    )}
                />
            </Box>
        );
    }
    return (
        <Box
            component="nav"
            aria-label="Sensors of this job"
            sx={{ borderRight: 1, borderColor: 'divider', py: 1, minWidth: 0 }}
        >
            {hardware.functions.map(({ key, title, needed }) => {
                const row = sensors.find((entry) => entry.function === key);
                const verdict = check?.result.judgements.find((entry) => entry.function === key);
                const isHere = key === chosen;
                return (
                    <Box
                        key={key}
                        component={Link}
                        to={`/jobs/${job.id}/sensors/entered/${key}`}
                        aria-current={isHere ? 'true' : undefined}
                        sx={{
                            display: 'flex',
                            alignItems: 'center',
                            gap: 1,
                            pl: 1.75,
                            pr: 1,
                            py: 0.55,
                            minHeight: 40,
                            textDecoration: 'none',
                            borderLeft: 4,
                            borderColor: isHere ? 'primary.main' : 'transparent',
                            bgcolor: isHere ? 'background.paper' : 'transparent',
                            color: 'text.primary',
                            '&:hover': { bgcolor: 'action.hover' },
                        }}
                    >
                        <Box sx={{ flex: 1, minWidth: 0 }}>
                            <Typography sx={{ fontSize: '0.95rem', fontWeight: isHere ? 700 : 500, lineHeight: 1.2 }}>{title}</Typography>
                            <Typography variant="caption" noWrap component="p" sx={{ color: row ? 'text.secondary' : needed === 'always' ? 'warning.main' : 'text.secondary' }}>
                                {row?.sensor.name ?? (needed === 'always' ? 'not entered yet' : 'none')}
                            </Typography>
                        </Box>
                        {verdict && row && <Mark state={verdict.state} word={false} />}
                    </Box>
                );
            })}
        </Box>
    );
}
