import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';

import type { Calibration, Schemas, TrialRow } from '../../api/client';
import type { Estimate } from '../../api/ladder';
import { cellPastQuery } from '../../api/calibration';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { inUnits } from '../../units/said';
import { decimalsOf, formatNumber, shownUnit, toShown } from '../../units/units';
import { PROVENANCE_WORDS } from '../../parts/provenance';
import { ProvenanceMark } from '../../parts/ProvenanceMark';
import { Taught } from './Taught';
import { cellKey, curveValues, type CellAt } from './edits';

interface Props {
    calibration: Calibration;
    definitions: Schemas['TableDefinition'][];
    cell: CellAt;
    edited: Record<string, number>;
    trials: TrialRow[];
    estimate: Estimate | undefined;
}

/** Where the selected number comes from, what it was before, and the trials next to it. */
export function CellMargin({ calibration, definitions, cell, edited, trials, estimate }: Props) {
    const { job, vocabulary } = useJob();
    const past = useQuery(cellPastQuery(job.id, cell.table, [cell.index]));
    const definition = definitions.find((entry) => entry.key === cell.table);
    const table = calibration.tables[cell.table];
    const point = table?.axes[0]?.points[cell.index];
    if (!definition || !table || point === undefined) return null;
    const mark = (table.provenance as Schemas['Provenance'][])[cell.index];
    const decimals = decimalsOf(definition.resolution);
    const value = curveValues(calibration, cell.table)[cell.index] ?? 0;
    const typed = edited[cellKey(cell)];
    const changes = past.data ?? [];
    const near = trials.filter((trial) => Math.abs(trial.coolant_c - point) <= vocabulary.limits.same_temperature_k).slice(0, 4);
    return (
        <Stack spacing={2}>
            <div>
                <Typography variant="h2">{definition.title}</Typography>
                <Typography variant="body2" color="text.secondary">
                    at {formatNumber(toShown(point, '°C', job.units), 0)} {shownUnit('°C', job.units)}
                </Typography>
                <Typography sx={{ fontFamily: mono, fontSize: '1.5rem', fontWeight: 600 }}>
                    {formatNumber(typed ?? value, decimals)} {definition.unit}
                </Typography>
                {typed !== undefined && (
                    <Typography variant="body2">typed, not saved; revision holds {formatNumber(value, decimals)}</Typography>
                )}
                <Typography variant="body2" sx={{ mt: 0.5 }}>
                    {definition.meaning}
                </Typography>
            </div>
            {mark && <WhereFrom mark={mark} />}
            {estimate && (
                <Taught
                    table={cell.table}
                    unit={definition.unit}
                    decimals={decimals}
                    coolantC={point}
                    index={cell.index}
                    estimate={estimate}
                    trials={trials}
                />
            )}
            {changes.length > 0 && <Before changes={changes} decimals={decimals} />}
            <div>
                <Typography variant="h3">Trials near here</Typography>
                {near.length === 0 && <Typography variant="body2">None yet: nothing here is proven.</Typography>}
                {near.map((trial) => (
                    <Typography key={trial.id} variant="body2" sx={{ mt: 0.5 }}>
                        <Link to={`/jobs/${job.id}/trials/${trial.id}`}>Trial {trial.number}</Link>: {inUnits(trial.sentence)}
                    </Typography>
                ))}
            </div>
        </Stack>
    );
}

/** What stood in the cell before, revision by revision. */
function Before({ changes, decimals }: { changes: Schemas['CellPastOut'][]; decimals: number }) {
    return (
        <div>
            <Typography variant="h3">Before</Typography>
            {changes.slice(0, 6).map(({ revision, from, to }) => (
                <Typography key={revision} variant="body2">
                    <Box component="span" sx={{ fontFamily: mono }}>
                        {formatNumber(from, decimals)} → {formatNumber(to, decimals)}
                    </Box>{' '}
                    in revision {revision}
                </Typography>
            ))}
        </div>
    );
}

/** Where the number comes from. */
function WhereFrom({ mark }: { mark: Schemas['Provenance'] }) {
    return (
        <div>
            <Stack direction="row" spacing={1} sx={{ alignItems: 'center' }}>
                <ProvenanceMark kind={mark.kind} size={14} />
                <Typography variant="h3">{PROVENANCE_WORDS[mark.kind]}</Typography>
            </Stack>
            <Typography variant="body2">{inUnits(mark.reason)}</Typography>
            {mark.source && (
                <Typography variant="caption" color="text.secondary">
                    {mark.source}
                </Typography>
            )}
        </div>
    );
}
