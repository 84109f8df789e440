import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Calibration, Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { formatNumber, shownUnit, toShown, namedUnit } from '../../units/units';
import { CurvePlot } from '../../parts/CurvePlot';
import { CHART_LETTERS_PX, useWidth } from '../../parts/useWidth';
import { gridOf, keyOf, spanOf, tableOf } from '../../parts/draft/grid';

interface Props {
    finding: Schemas['TableFindingOut'];
    calibration: Calibration;
}

/** Before it is measured, and what the numbers of the axis down need. */
const PICTURE_WIDTH = 290;
const LEFT = 48;

/** Where a finding lies: the table in small, its cells framed; a curve with its points ringed. */
export function PlacePicture({ finding, calibration }: Props) {
    const { job, vocabulary } = useJob();
    const [frame, drawn] = useWidth(PICTURE_WIDTH);
    const definition = vocabulary.tables.find(({ key }) => key === finding.table);
    const table = tableOf(calibration, finding.table);
    if (!definition || !table) return null;
    const grid = gridOf(table);
    const [down, across] = table.axes;
    const unit = namedUnit(definition.unit);
    const shown = (value: number, canonical: string) => formatNumber(toShown(value, canonical, job.units), 0);
    if (!down) {
        return (
            <>
                <Typography variant="h2">{definition.title}</Typography>
                <Typography sx={{ fontSize: '1.4rem' }}>
                    {formatNumber(toShown(grid[0]?.[0] ?? 0, unit, job.units), 0)} {shownUnit(unit, job.units)}
                </Typography>
            </>
        );
    }
    if (!across) {
        const points = down.points.map((point, i) => [toShown(point, down.unit, job.units), grid[i]?.[0] ?? 0] as const);
        return (
            <>
                <Typography variant="h2">{definition.title}</Typography>
                <CurvePlot
                    title={`${definition.title}, the cells of the finding ringed`}
                    xLabel={shownUnit(down.unit, job.units)}
                    yLabel={unit}
                    series={[{ name: '', points }]}
                    dots={finding.cells.map((index) => points[index[0] ?? 0] ?? [0, 0])}
                    height={330}
                />
            </>
        );
    }
    const [low, high] = spanOf(grid);
    const flagged = new Set(finding.cells.map((index) => keyOf(index[0] ?? 0, index[1] ?? 0)));
    const width = drawn - LEFT - 4;
    const cell = width / (grid[0]?.length || 1);
    const height = Math.max(9, Math.min(20, 300 / grid.length));
    return (
        <>
            <Typography variant="h2">{definition.title}</Typography>
            <Box component="svg" ref={frame} viewBox={`${-LEFT} -18 ${drawn} ${height * grid.length + 26}`} role="img" aria-label={`${definition.title}: ${finding.cells.length} cells of the finding are framed`} sx={{ width: '100%', display: 'block', '& text': { fontSize: CHART_LETTERS_PX, fill: 'var(--mui-palette-text-secondary)' } }}>
                {grid.map((line, row) =>
                    line.map((value, column) => (
                        <rect
                            key={keyOf(row, column)}
                            x={column * cell}
                            y={row * height}
                            width={cell}
                            height={height}
                            fill="var(--mui-palette-ink-main)"
                            fillOpacity={0.06 + 0.7 * ((value - low) / (high - low || 1))}
                        />
                    )),
                )}
                {[...flagged].map((key) => {
                    const [row, column] = key.split('.').map(Number);
                    return <rect key={key} x={(column ?? 0) * cell + 1} y={(row ?? 0) * height + 1} width={cell - 2} height={height - 2} fill="none" stroke="var(--mui-palette-error-main)" strokeWidth={2.4} />;
                })}
                <text x={0} y={-6}>
                    {shown(across.points[0] ?? 0, across.unit)}
                </text>
                <text x={width} y={-6} textAnchor="end">
                    {shown(across.points.at(-1) ?? 0, across.unit)} {shownUnit(across.unit, job.units)}
                </text>
                <text x={-4} y={10} textAnchor="end">
                    {shown(down.points[0] ?? 0, down.unit)}
                </text>
                <text x={-4} y={height * grid.length - 2} textAnchor="end">
                    {shown(down.points.at(-1) ?? 0, down.unit)}
                </text>
                <text x={-4} y={height * grid.length + 8} textAnchor="end">
                    {shownUnit(down.unit, job.units)}
                </text>
            </Box>
            <Typography variant="caption">
                Ink from {formatNumber(toShown(low, unit, job.units), unit === 'lambda' ? 2 : 0)} to {formatNumber(toShown(high, unit, job.units), unit === 'lambda' ? 2 : 0)} {shownUnit(unit, job.units)}; framed: {finding.cells.length} {finding.cells.length === 1 ? 'cell' : 'cells'}.
            </Typography>
        </>
    );
}
