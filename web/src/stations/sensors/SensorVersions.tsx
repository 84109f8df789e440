import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type Sensor } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { moment } from '../../parts/when';
import type { SensorFunction } from './draft';

interface Props {
    definition: SensorFunction;
    onTake: (sensor: Sensor) => void;
}

/** All saved versions; an old one can be taken up again and saved as a new one. */
export function SensorVersions({ definition, onTake }: Props) {
    const { job } = useJob();
    const [anchor, setAnchor] = useState<HTMLElement | null>(null);
    const versions = useQuery({
        queryKey: ['jobs', job.id, 'sensors', definition.key, 'versions'],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/sensors/{function}/versions', {
                    params: { path: { job_id: job.id, function: definition.key } },
                }),
            ),
    });
    return (
        <>
            <Button onClick={(event) => setAnchor(event.currentTarget)} aria-haspopup="menu">
                Versions
            </Button>
            <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
                {(versions.data ?? []).map((version) => (
                    <MenuItem
                        key={version.number}
                        disabled={!version.sensor}
                        onClick={() => {
                            if (version.sensor) onTake(version.sensor);
                            setAnchor(null);
                        }}
                    >
                        {version.number}: {version.sensor?.name ?? 'removed'}, {moment(version.created_at)},{' '}
                        {version.created_by}
                    </MenuItem>
                ))}
            </Menu>
        </>
    );
}
