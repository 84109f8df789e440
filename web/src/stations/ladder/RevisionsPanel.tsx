import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { client, unwrap, type CellChange, type RevisionRow } from '../../api/client';
import { diffQuery, revisionsQuery } from '../../api/calibration';
import { refresh } from '../../api/refresh';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { decimalsOf, formatNumber } from '../../units/units';
import { Loading } from '../../parts/Loading';
import { placeOf } from '../../parts/placeOf';
import { ProblemNote } from '../../parts/ProblemNote';
import { moment } from '../../parts/when';

const ORIGINS: Record<RevisionRow['origin'], string> = {
    generated: 'generated',
    edit: 'typed',
    accept: 'advice accepted',
    restore: 'restored',
    import: 'imported',
    injectors: 'followed the injectors',
    dwell: 'followed the coil',
    inherited: 'found in the controller',
    base_maps: 'base maps generated',
    carried: 'carried over',
    axes: 'other breakpoints',
};

/** So many revisions are listed at once. */
const PAGE = 50;

/** The history: every revision with its note, what it changed, and a way back to it. */
export function RevisionsPanel({ newest }: { newest: number }) {
    const { job, vocabulary } = useJob();
    const queryClient = useQueryClient();
    const [limit, setLimit] = useState(PAGE);
    const revisions = useQuery({ ...revisionsQuery(job.id, limit), placeholderData: keepPreviousData });
    const [shown, setShown] = useState(newest);
    const restore = useMutation({
        mutationFn: (revision: number) =>
            unwrap(
                client.POST('/api/jobs/{job_id}/calibration/restore', {
                    params: { path: { job_id: job.id } },
                    body: { revision, based_on: newest, note: '' },
                }),
            ),
        onSuccess: async (saved) => {
            setShown(saved.revision);
            await refresh(queryClient, job.id, 'tables');
        },
    });
    if (revisions.isPending) return <Loading what="Fetching the revisions" />;
    if (revisions.isError) return <ProblemNote error={revisions.error} />;
    const titles = Object.fromEntries(vocabulary.tables.map((table) => [table.key, table.title.toLowerCase()]));
    const chosen = revisions.data.find((entry) => entry.revision === shown);
    return (
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: '1fr 1fr' }, gap: 2, mt: 1 }}>
            <Box component="ol" sx={{ listStyle: 'none', p: 0, m: 0 }}>
                {revisions.data.map((revision) => {
                    const changed = revision.changed.map((key) => titles[key] ?? key);
                    const here = revision.revision === shown;
                    return (
                        <RevisionLine
                            key={revision.revision}
                            revision={revision}
                            here={here}
                            newest={newest}
                            changed={changed}
                            onRestore={restore.mutate}
                            isBusy={restore.isPending}
                            onShow={setShown}
                        />
                    );
                })}
                {revisions.data.length === limit && (
                    <Button size="small" onClick={() => setLimit(limit + PAGE)} sx={{ mt: 1 }}>
                        Earlier revisions
                    </Button>
                )}
                {restore.error && <ProblemNote error={restore.error} />}
            </Box>
            {chosen && <Compared chosen={chosen} newest={newest} />}
        </Box>
    );
}

/** What one revision changed, and what came after it. */
function Compared({ chosen, newest }: { chosen: RevisionRow; newest: number }) {
    return (
        <div>
            <Typography variant="h2" gutterBottom>
                Revision {chosen.revision} compared
            </Typography>
            {chosen.based_on !== null && <Difference first={chosen.based_on} second={chosen.revision} label="with the one before it" />}
            {chosen.revision !== newest && <Difference first={chosen.revision} second={newest} label="with the newest one" />}
            {chosen.based_on === null && chosen.revision === newest && (
                <Typography>It is the only one.</Typography>
            )}
        </div>
    );
}

interface RevisionLineProps {
    revision: RevisionRow;
    here: boolean;
    newest: number;
    changed: readonly string[];
    onRestore: (revision: number) => void;
    isBusy: boolean;
    onShow: (revision: number) => void;
}

/** One revision: look at it, or go back to it. */
function RevisionLine({ revision, here, newest, changed, onRestore, isBusy, onShow }: RevisionLineProps) {
    return (
        <Box
            component="li"
            sx={{
                borderBottom: 1,
                borderColor: 'divider',
                borderLeft: 4,
                borderLeftColor: here ? 'primary.main' : 'transparent',
                bgcolor: here ? 'background.paper' : 'transparent',
                p: 1,
            }}
        >
            <Stack direction="row" sx={{ alignItems: 'baseline', gap: 1 }}>
                <Button
                    size="small"
                    onClick={() => onShow(revision.revision)}
                    aria-pressed={here}
                    sx={{ minWidth: 0, px: 1 }}
                >
                    Revision {revision.revision}
                </Button>
                <Typography variant="body2" color="text.secondary" sx={{ flex: 1 }}>
                    {ORIGINS[revision.origin]} by {revision.author},{' '}
                    {moment(revision.created_at)}
                </Typography>
                {revision.revision !== newest && (
                    <Button
                        size="small"
                        onClick={() => onRestore(revision.revision)}
                        disabled={isBusy}
                    >
                        Restore
                    </Button>
                )}
            </Stack>
            <Typography variant="body2" sx={{ pl: 1 }}>
                {revision.note}
                {changed.length > 0 && ` Changed: ${changed.join(', ')}.`}
            </Typography>
        </Box>
    );
}

/** Cells that differ between two revisions, table by table. */
function Difference({ first, second, label }: { first: number; second: number; label: string }) {
    const { job, vocabulary } = useJob();
    const diff = useQuery(diffQuery(job.id, first, second));
    const entries = Object.entries(diff.data?.tables ?? {});
    return (
        <Box sx={{ mb: 2 }}>
            <Typography variant="h3">
                {label}: {first} → {second}
            </Typography>
            {diff.isError && <ProblemNote error={diff.error} />}
            {diff.data && entries.length === 0 && <Typography variant="body2">No value differs.</Typography>}
            {entries.map(([key, changes]) => {
                const table = vocabulary.tables.find((entry) => entry.key === key);
                const decimals = decimalsOf(table?.resolution ?? 0.1);
                return (
                    <Box key={key} sx={{ mt: 1 }}>
                        <Typography variant="body2" sx={{ fontWeight: 650 }}>
                            {table?.title ?? key} [{table?.unit}]
                        </Typography>
                        <Box component="table" sx={{ fontFamily: mono, fontSize: '0.93rem', '& td': { pr: 1.5, textAlign: 'right' } }}>
                            <tbody>
                                {changes.slice(0, 16).map((change) => (
                                    <tr key={change.index.join()}>
                                        <td>{placeOf(change, table?.axes ?? [], vocabulary.axes, job.units)}</td>
                                        <td>{formatNumber(change.from, decimals)}</td>
                                        <td>→</td>
                                        <td>{formatNumber(change.to, decimals)}</td>
                                        <td>{changePercent(change)}</td>
                                    </tr>
                                ))}
                            </tbody>
                        </Box>
                        {changes.length > 16 && (
                            <Typography variant="body2">and {changes.length - 16} more cells</Typography>
                        )}
                    </Box>
                );
            })}
        </Box>
    );
}

function changePercent({ from, to }: CellChange): string {
    if (from === 0) return '';
    const percent = formatNumber(100 * (to / from - 1), 0);
    return percent.startsWith('−') ? `${percent} %` : `+${percent} %`;
}
