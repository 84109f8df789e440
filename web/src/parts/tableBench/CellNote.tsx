import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { memo } from 'react';

import type { Schemas } from '../../api/client';
import { cellPastQuery } from '../../api/calibration';
import { whyQuery } from './api';
import { useJob } from '../jobContext';
import { mono } from '../theme';
import { inUnits } from '../../units/said';
import { decimalsOf, formatNumber, namedUnit } from '../../units/units';
import { PROVENANCE_WORDS } from '../provenance';
import { ProvenanceMark } from '../ProvenanceMark';
import { useShown } from '../useShown';
import type { Display } from './display';

interface Props {
    definition: Schemas['TableDefinition'];
    display: Display;
    place: string;
    index: number[];
    at: number[];
    value: number;
    saved: number;
    mark: Schemas['Provenance'] | undefined;
    hits: number | undefined;
}

/** The selected number: in the controller's unit and the canonical one, whence it comes, and why. */
export const CellNote = memo(function CellNote({ definition, display, place, index, at, value, saved, mark, hits }: Props) {
    const { job } = useJob();
    const shown = useShown();
    const past = useQuery(cellPastQuery(job.id, definition.key, index));
    const decimals = decimalsOf(definition.resolution);
    const changes = past.data ?? [];
    return (
        <Stack spacing={1.5}>
            <div>
                <Typography variant="h2">{definition.title}</Typography>
                {place && (
                    <Typography variant="body2" color="text.secondary">
                        at {place}
                    </Typography>
                )}
                <Typography sx={{ fontFamily: mono, fontSize: '1.45rem', fontWeight: 600 }}>
                    {formatNumber(display.show(value), display.decimals)} {display.unit}
                </Typography>
                {!display.isCanonical && (
                    <Typography variant="body2" sx={{ fontFamily: mono }}>
                        = {formatNumber(value, decimals)} {namedUnit(definition.unit)}
                    </Typography>
                )}
                {value !== saved && (
                    <Typography variant="body2">
                        not saved; the revision holds {formatNumber(display.show(saved), display.decimals)}
                    </Typography>
                )}
            </div>
            {mark && (
                <div>
                    <Stack direction="row" spacing={1} sx={{ alignItems: 'center' }}>
                        <ProvenanceMark kind={mark.kind} size={14} />
                        <Typography variant="h3">{PROVENANCE_WORDS[mark.kind]}</Typography>
                    </Stack>
                    <Typography variant="body2">{inUnits(mark.reason)}</Typography>
                </div>
            )}
            {hits !== undefined && hits >= 0.5 && (
                <Typography variant="body2">Logs or trials took part here {formatNumber(hits, 0)} times.</Typography>
            )}
            <Why table={definition.key} at={at} unit={namedUnit(definition.unit)} shown={shown} decimals={decimals} />
            {changes.length > 0 && (
                <div>
                    <Typography variant="h3">Before</Typography>
                    {changes.slice(0, 4).map(({ revision, from, to }) => (
                        <Typography key={revision} variant="body2">
                            <Box component="span" sx={{ fontFamily: mono }}>
                                {formatNumber(display.show(from), display.decimals)} → {formatNumber(display.show(to), display.decimals)}
                            </Box>{' '}
                            in revision {revision}
                        </Typography>
                    ))}
                </div>
            )}
        </Stack>
    );
});

interface WhyProps {
    table: string;
    at: number[];
    unit: string;
    shown: (value: number, unit: string, decimals: number) => string;
    decimals: number;
}

/** The formula with this engine's numbers. */
function Why({ table, at, unit, shown, decimals }: WhyProps) {
    const { job } = useJob();
    const why = useQuery(whyQuery(job.id, table, at));
    if (!why.data || why.data.key !== table) return null;
    const { formula, terms, beneath, value, held, band, is_sum: isSum } = why.data;
    // A single number says all of it already.
    if (!terms.length) return null;
    const signed = (amount: number) => `${amount < 0 || !isSum ? '' : '+'}${formatNumber(amount, Math.max(decimals, 2))}`;
    const list = (parts: Schemas['Term'][]) => (
        <Box component="dl" sx={{ m: 0, display: 'grid', gridTemplateColumns: 'auto 1fr', columnGap: 1, rowGap: 0.25, '& dd, & dt': { m: 0 } }}>
            {parts.map((term) => (
                <Box key={term.name} sx={{ display: 'contents' }}>
                    <Box component="dt" sx={{ fontFamily: mono, fontSize: '0.88rem', textAlign: 'right' }}>
                        {signed(term.amount)}
                    </Box>
                    <Typography component="dd" variant="caption">
                        <b>{term.name}</b>: {inUnits(term.because)}
                    </Typography>
                </Box>
            ))}
        </Box>
    );
    return (
        <Box aria-label="Why this value">
            <Typography variant="h3">Engine data give {shown(value, unit, decimals)}</Typography>
            {band && (
                <Typography variant="body2" sx={{ mb: 0.5 }}>
                    Nine engines in ten lie between {band.map((end) => shown(Number(end), unit, decimals)).join(' and ')}.
                </Typography>
            )}
            <Typography variant="caption" component="p" sx={{ m: 0, mb: 0.5 }}>
                {formula}
                {held && `; ${held}`}
            </Typography>
            {list(terms)}
            {beneath.length > 0 && (
                <Box component="details" sx={{ mt: 0.5 }}>
                    <Typography component="summary" variant="body2" sx={{ cursor: 'pointer' }}>
                        The peak of “{terms[0]?.name}”
                    </Typography>
                    {list(beneath)}
                </Box>
            )}
        </Box>
    );
}
