import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { CurvePlot } from '../../parts/CurvePlot';
import { useJob } from '../../parts/jobContext';
import { mono } from '../../parts/theme';
import { decimalsFor, inUnits } from '../../units/said';
import { formatNumber, shownUnit, toShown, type UnitChoice } from '../../units/units';

const TINTS: Record<string, 'warning' | 'primary'> = { A: 'warning', M: 'primary' };

/** What a section draws: plots, tables as they stand, photographs. */
export function Drawn({ section }: { section: Schemas['Section'] }) {
    const { job } = useJob();
    return (
        <>
            {section.plots.length > 0 && (
                <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(300px, 1fr))', gap: 2, mt: 1 }}>
                    {section.plots.map((plot) => (
                        <PlotView key={plot.title} plot={plot} units={job.units} />
                    ))}
                </Box>
            )}
            {section.maps.map((sheet) => (
                <SheetView key={sheet.title} sheet={sheet} units={job.units} />
            ))}
            {section.pictures.length > 0 && (
                <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(240px, 1fr))', gap: 2, mt: 1 }}>
                    {section.pictures.map((picture) => (
                        <PictureView key={picture.number} picture={picture} jobId={job.id} />
                    ))}
                </Box>
            )}
        </>
    );
}

interface InUnits {
    units: UnitChoice;
}

function PlotView({ plot, units }: InUnits & { plot: Schemas['Plot'] }) {
    const x = (value: number) => toShown(value, plot.x_unit, units);
    const y = (value: number | null) => (value === null ? null : toShown(value, plot.y_unit, units));
    const axis = (title: string, unit: string) => [title, unit && shownUnit(unit, units)].filter(Boolean).join(' · ');
    const title = inUnits(plot.title, units);
    return (
        <Box>
            <Typography variant="body2" sx={{ fontWeight: 650 }}>
                {title}
            </Typography>
            <CurvePlot
                title={title}
                xLabel={axis(plot.x_title, plot.x_unit)}
                yLabel={axis(plot.y_title, plot.y_unit)}
                height={260}
                series={plot.lines.map((line) => ({ name: line.name, look: line.look ?? 'line', points: line.x.map((at, i) => [x(at), y(line.y[i] ?? null)] as const) }))}
            />
        </Box>
    );
}

/** A table as it stands; the letter says where each value comes from, the tint alone says nothing. */
function SheetView({ sheet, units }: InUnits & { sheet: Schemas['MapSheet'] }) {
    const isMap = sheet.across.length > 0;
    const shownAs = shownUnit(sheet.unit, units);
    // Lambda is a mere number: its name says all.
    const unit = shownAs === 'lambda' ? '' : shownAs;
    const title = unit ? `${sheet.title}, ${unit}` : sheet.title;
    const shown = (value: number, of: string) => toShown(value, of, units);
    const factor = Math.abs(shown(1, sheet.unit) - shown(0, sheet.unit)) || 1;
    const decimals = decimalsFor(sheet.decimals, factor);
    const point = (value: number, of: string) => String(Number(shown(value, of).toFixed(2))).replace('-', '−');
    const heads = isMap ? sheet.across.map((value) => point(value, sheet.across_unit)) : sheet.down.map((value) => point(value, sheet.down_unit));
    const names = isMap ? sheet.down.map((value) => point(value, sheet.down_unit)) : [unit || 'value'];
    const rows = isMap ? sheet.values : [sheet.values.map((row) => row[0] ?? 0)];
    const origins = isMap ? sheet.origins : [sheet.origins.map((row) => row[0] ?? '')];
    const corner = isMap ? `${shownUnit(sheet.down_unit, units)} / ${shownUnit(sheet.across_unit, units)}` : shownUnit(sheet.down_unit, units);
    const cell = { px: 0.75, py: 0.25, textAlign: 'right', whiteSpace: 'nowrap', borderTop: 1, borderColor: 'divider' } as const;
    return (
        <Box sx={{ mt: 1.5, overflowX: 'auto' }} tabIndex={0} role="region" aria-label={`${title}, values`}>
            <Box component="table" sx={{ borderCollapse: 'collapse', fontFamily: mono, fontSize: '0.82rem' }}>
                <Box component="caption" sx={{ textAlign: 'left', fontWeight: 650, fontFamily: 'inherit', fontSize: '0.95rem' }}>
                    {title}
                </Box>
                <thead>
                    <tr>
                        <Box component="th" scope="col" sx={{ ...cell, borderTop: 0, color: 'text.secondary' }}>
                            {corner}
                        </Box>
                        {heads.map((head, i) => (
                            <Box component="th" scope="col" key={i} sx={{ ...cell, borderTop: 0, color: 'text.secondary' }}>
                                {head}
                            </Box>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {rows.map((row, i) => (
                        <tr key={i}>
                            <Box component="th" scope="row" sx={{ ...cell, color: 'text.secondary' }}>
                                {names[i]}
                            </Box>
                            {row.map((value, j) => {
                                const origin = origins[i]?.[j] ?? '';
                                const tint = TINTS[origin];
                                return (
                                    <Box component="td" key={j} sx={{ ...cell, ...(tint && { background: `color-mix(in srgb, var(--mui-palette-${tint}-main) 14%, transparent)` }) }}>
                                        {formatNumber(shown(value, sheet.unit), decimals)} {origin}
                                    </Box>
                                );
                            })}
                        </tr>
                    ))}
                </tbody>
            </Box>
        </Box>
    );
}

function PictureView({ picture, jobId }: { picture: Schemas['Picture']; jobId: number }) {
    return (
        <Box component="figure" sx={{ m: 0 }}>
            <Box component="img" src={`/api/jobs/${jobId}/photographs/${picture.number}`} alt={picture.caption || `Photograph ${picture.number}`} loading="lazy" width={picture.width} height={picture.height} sx={{ width: '100%', height: 'auto', border: 1, borderColor: 'divider' }} />
            <Typography component="figcaption" variant="body2">
                {picture.number}. {picture.caption || 'without a caption'} ({picture.by}, {picture.day})
            </Typography>
        </Box>
    );
}
