import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { moment } from '../../parts/when';
import { formatNumber } from '../../units/units';
import { passQuery } from '../../api/fuelMap';

interface Props {
    number: number;
    passes: Schemas['PassRowOut'][];
    onChoose: (number: number) => void;
}

/** Progress over the passes, what the layers took away, and what to drive next. */
export function PassMargin({ number, passes, onChoose }: Props) {
    const { job } = useJob();
    const result = useQuery(passQuery(job.id, number)).data?.result;
    return (
        <>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Passes
            </Typography>
            {passes.map((pass) => (
                <Button key={pass.number} fullWidth sx={{ display: 'block', textAlign: 'left', py: 0.5, borderLeft: 3, borderColor: pass.number === number ? 'primary.main' : 'transparent', borderRadius: 0 }} aria-current={pass.number === number} onClick={() => onChoose(pass.number)}>
                    {pass.number}. {moment(pass.at)}: {pass.blocks && !pass.taken ? 'waits for a cause' : `${Math.round(100 * pass.done_share)} % done`}{pass.taken ? ', taken' : ''}
                </Button>
            ))}
            {result && <Counted logs={result.logs} />}
            {result && <Plan plan={result.plan} unit={result.load_unit} paper={`/jobs/${job.id}/fuel-map/plan/${number}`} />}
            {result && result.not_told.length > 0 && (
                <Typography variant="caption" component="p" sx={{ mt: 1 }}>
                    Not told by these logs: {result.not_told.join('; ')}.
                </Typography>
            )}
        </>
    );
}

/** What each layer took away of the drives, in seconds. */
function Counted({ logs }: { logs: Schemas['LogUsed'][] }) {
    return (
        <>
            <Typography variant="h3" component="h3" sx={{ mt: 2 }}>
                What counted
            </Typography>
            {logs.map((log) => (
                <Box key={log.log_id} sx={{ borderTop: 1, borderColor: 'divider', py: 0.75 }}>
                    <Typography variant="body2" sx={{ fontWeight: 650 }}>
                        {log.name}: {log.readings} s
                    </Typography>
                    {log.layers
                        .filter(({ seconds }) => seconds > 0)
                        .map(({ key, title, seconds, reason }) => (
                            <Typography key={key} variant="caption" component="p" title={reason}>
                                {title}: {formatNumber(seconds, 0)} s left out
                            </Typography>
                        ))}
                    <Typography variant="caption" component="p">
                        {log.delay}
                    </Typography>
                </Box>
            ))}
        </>
    );
}

/** The places that are worth most, for a driver. */
function Plan({ plan, unit, paper }: { plan: Schemas['DrivePoint'][]; unit: string; paper: string }) {
    if (!plan.length) return null;
    return (
        <>
            <Typography variant="h3" component="h3" sx={{ mt: 2 }}>
                What to drive next
            </Typography>
            {plan.map((point) => (
                <Typography key={`${point.rpm} ${point.load}`} variant="body2" sx={{ borderTop: 1, borderColor: 'divider', py: 0.5 }}>
                    <b>
                        {formatNumber(point.rpm, 0)} rpm at {formatNumber(point.load, 0)} {unit}
                    </b>{' '}
                    for {formatNumber(point.seconds, 0)} s: {point.why}
                </Typography>
            ))}
            <Button component={Link} to={paper} size="small">
                For paper
            </Button>
        </>
    );
}
