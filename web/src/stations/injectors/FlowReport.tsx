import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { mono } from '../../parts/theme';
import { formatNumber } from '../../units/units';
import { PointGrid } from '../../parts/PointGrid';
import { QuantityField } from '../../parts/QuantityField';
import { Sentences } from '../../parts/Sentences';
import type { InjectorDraft } from './draft';

interface Props {
    draft: InjectorDraft;
    change: (part: Partial<InjectorDraft>) => void;
    sheet: Schemas['InjectorSheet'] | undefined;
    problem: (name: string) => string | undefined;
}

/** A flow-bench report: how alike the injectors are, and which cylinder deserves which. */
export function FlowReport({ draft, change, sheet, problem }: Props) {
    const report = sheet?.report;
    const most = Math.max(1, ...(report?.placings ?? []).map((place) => Math.abs(place.from_mean_pct)));
    return (
        <Box component="section" aria-label="Flow-bench report" sx={{ mb: 3 }}>
            <Typography variant="h2" sx={{ mb: 1 }}>
                Flow-bench report
            </Typography>
            <Box sx={{ display: 'grid', gap: 3, gridTemplateColumns: { xs: 'minmax(0, 1fr)', sm: '280px minmax(0, 1fr)' }, alignItems: 'start' }}>
                <Box>
                    <PointGrid
                        title="Injector by injector"
                        columns={[
                            { title: `Flow, ${draft.unit}`, unit: '' },
                            { title: 'Cylinder’s need, %', unit: '' },
                        ]}
                        rows={draft.report.map((row) => [row[0] ?? null, row[1] ?? null])}
                        onChange={(rows) => change({ report: rows })}
                        purpose="flows"
                        error={problem('flows') ?? problem('needs_pct') ?? problem('report')}
                    />
                    <Box sx={{ mt: 1.5 }}>
                        <QuantityField
                            label="Measured at"
                            unit="kPa"
                            value={draft.reportPressure}
                            onChange={(reportPressure) => change({ reportPressure })}
                            error={problem('report.pressure_kpa')}
                            placeholder="the rated pressure"
                        />
                    </Box>
                </Box>
                {report ? (
                    <Box sx={{ overflowX: 'auto' }}>
                        <Sentences sentences={report.sentences} level={report.level === 'matched' ? 'good' : 'attention'} />
                        <Box component="table" aria-label="Injectors against their mean" sx={{ borderCollapse: 'collapse', width: '100%', maxWidth: 620, '& td, & th': { py: 0.4, pr: 1.5, textAlign: 'left' } }}>
                            <thead>
                                <tr>
                                    {['Injector', 'Petrol, cm³/min', 'Against the mean', '', 'Into cylinder', 'Its mixture'].map((head, i) => (
                                        <Box component="th" key={`${head}${i}`} sx={{ fontSize: '0.86rem', color: 'text.secondary' }}>
                                            {head}
                                        </Box>
                                    ))}
                                </tr>
                            </thead>
                            <tbody>
                                {report.placings.map((place) => <Placing key={place.injector} place={place} most={most} isWorst={(report.worst_pair).includes(place.injector)} />)}
                            </tbody>
                        </Box>
                    </Box>
                ) : (
                    <Typography variant="body2" sx={{ pt: 3 }}>
                        With a report its mean counts instead of the rating. Spread, worst pair and the place of each
                        injector stand here.
                    </Typography>
                )}
            </Box>
        </Box>
    );
}

/** One injector: its flow, and the cylinder it should serve. */
function Placing({ place, most, isWorst }: { place: NonNullable<Schemas['InjectorSheet']['report']>['placings'][number]; most: number; isWorst: boolean }) {
    return (
        <tr>
            <td>{place.injector}</td>
            <Box component="td" sx={{ fontFamily: mono }}>
                {formatNumber(place.flow_cm3_min, 0)}
            </Box>
            <Box component="td" sx={{ width: 190 }}>
                <Bar share={place.from_mean_pct / most} isWorst={isWorst} />
            </Box>
            <Box component="td" sx={{ fontFamily: mono, whiteSpace: 'nowrap' }}>
                {signed(place.from_mean_pct)} %
            </Box>
            <td>{place.cylinder}</td>
            <Box component="td" sx={{ fontFamily: mono, whiteSpace: 'nowrap' }}>
                {place.mixture_pct >= 0 ? 'richer' : 'leaner'} {formatNumber(Math.abs(place.mixture_pct), 1)} %
            </Box>
        </tr>
    );
}

function signed(value: number): string {
    return `${value > 0 ? '+' : ''}${formatNumber(value, 1)}`;
}

/** Left of the middle is less than the mean, right is more. */
function Bar({ share, isWorst }: { share: number; isWorst: boolean }) {
    const length = Math.abs(share) * 85;
    return (
        <svg width="180" height="16" aria-hidden>
            <line x1="90" x2="90" y1="0" y2="16" stroke="var(--mui-palette-ink-rule)" />
            <rect
                x={share < 0 ? 90 - length : 90}
                y="3"
                width={Math.max(length, 1)}
                height="10"
                fill={isWorst ? 'var(--mui-palette-warning-main)' : 'var(--mui-palette-ink-main)'}
            />
        </svg>
    );
}
