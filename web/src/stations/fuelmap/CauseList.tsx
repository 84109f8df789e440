import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import Button from '@mui/material/Button';
import { useQueryClient } from '@tanstack/react-query';

import type { Schemas } from '../../api/client';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { formatNumber } from '../../units/units';
import { solvePass } from '../../api/fuelMap';
import { TaskProgress } from '../../parts/TaskProgress';
import { useTask } from '../../parts/useTask';

const DECIMALS: Record<string, number> = { ms: 2, 'ms missing at the shortest': 2, kPa: 1, 'g/s': 2, lambda: 3 };
const SHOWN = 0.05;

/** What is not the table's fault, as likely as it is, with its size and the test for it. */
export function CauseList({ result, onSolved }: { result: Schemas['FuelPass']; onSolved: (number: number) => void }) {
    const { job } = useJob();
    const queryClient = useQueryClient();
    const again = useTask<Schemas['FoundCause'], { number: number }>(
        (cause) =>
            solvePass(job.id, {
                log_ids: result.logs.map(({ log_id }) => log_id),
                table: result.table as Schemas['FuelMapIn']['table'],
                authority: result.authority,
                locked: result.locked ?? [],
                mended: [...(result.mended ?? []), { key: cause.key, size: cause.size, since: cause.since }],
            }),
        async ({ number }) => {
            await refresh(queryClient, job.id, 'fuel-map');
            onSolved(number);
        },
    );
    const causes = result.causes.filter(({ probability }) => probability >= SHOWN);
    const size = (cause: Schemas['FoundCause'], value: number) => formatNumber(value, DECIMALS[cause.unit] ?? 1);
    return (
        <Box component="section" aria-label="Causes" sx={{ mb: 2 }}>
            <Box role={result.blocks ? 'alert' : undefined} sx={{ border: result.blocks ? 3 : 1, borderColor: result.blocks ? 'error.main' : 'divider', bgcolor: 'background.paper', p: 1.5, mb: 1 }}>
                <Typography sx={{ fontSize: '1.1rem', fontWeight: 650 }}>{result.cause_sentence}</Typography>
                {result.deciding_test && causes.length > 0 && <Typography sx={{ mt: 0.5 }}>The test: {result.deciding_test}</Typography>}
            </Box>
            {(result.mended ?? []).map((one) => (
                <Typography key={one.key} variant="body2" sx={{ mb: 0.5 }}>
                    Taken off these logs, as mended since: {result.causes.find(({ key }) => key === one.key)?.title ?? one.key}.
                </Typography>
            ))}
            {(result.earlier ?? []).length > 0 && (
                <Typography variant="body2" sx={{ mb: 0.5 }}>
                    Compared with what the drives of {result.earlier.length > 1 ? 'passes' : 'pass'} {result.earlier.join(' and ')} read, on the map as it is now.
                </Typography>
            )}
            {causes.map((cause) => (
                <Box key={cause.key} sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', sm: '110px minmax(0, 1fr) 220px 170px' }, gap: 1, alignItems: 'center', py: 0.5 }}>
                    <Likelihood value={cause.probability} />
                    <Typography variant="body2">
                        {cause.title}
                        {cause.since && <Box component="span" sx={{ fontWeight: 650 }}> – came since the drives before</Box>}
                    </Typography>
                    <Typography variant="body2" sx={{ fontWeight: 650 }}>
                        {size(cause, away(cause) * cause.size)} {cause.unit} {cause.sense}{' '}
                        <Box component="span" sx={{ fontWeight: 400 }}>
                            ({band(cause).map((end) => size(cause, end)).join(' to ')})
                        </Box>
                    </Typography>
                    {cause.comes_off && result.deciding_test && result.logs.length > 0 && (
                        <Button size="small" disabled={again.isPending} onClick={() => again.begin(cause)}>
                            Mended: read again
                        </Button>
                    )}
                </Box>
            ))}
            <TaskProgress task={again} label="Reading the logs again" />
            {again.error && <ProblemNote error={again.error} />}
        </Box>
    );
}

/** The way of a size whose sign is told in words. */
function away(cause: Schemas['FoundCause']) {
    return cause.sense && cause.size < 0 ? -1 : 1;
}

/** Both ends of its band, the lower one first. */
function band(cause: Schemas['FoundCause']) {
    return away(cause) < 0 ? [-cause.high, -cause.low] : [cause.low, cause.high];
}

/** A share as a bar with its figure. */
function Likelihood({ value }: { value: number }) {
    const percent = Math.round(100 * value);
    return (
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
            <Box sx={{ flex: 1, height: 10, border: 1, borderColor: 'divider' }}>
                <Box sx={{ width: `${percent}%`, height: '100%', bgcolor: 'primary.main' }} />
            </Box>
            <Typography variant="body2" sx={{ minWidth: 40 }}>
                {percent} %
            </Typography>
        </Box>
    );
}
