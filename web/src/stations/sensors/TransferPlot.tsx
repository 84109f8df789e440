import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { shownUnit, toShown } from '../../units/units';
import { CurvePlot, type Series } from '../../parts/CurvePlot';
import type { SensorFunction } from './draft';

interface Props {
    definition: SensorFunction;
    sheet: Schemas['SensorSheet'];
}

/** The curve over the signal: its points, what is extrapolated, and where a fault begins. */
export function TransferPlot({ definition, sheet }: Props) {
    const { job } = useJob();
    const shown = (value: number) => toShown(value, definition.unit, job.units);
    const curve = [...sheet.curve].sort((a, b) => a.signal - b.signal);
    // A point of the neighbouring part joins the two.
    const part = (extrapolated: boolean): Series['points'] =>
        curve.map((point, i) => {
            const joins = extrapolated && (curve[i - 1]?.extrapolated === true || curve[i + 1]?.extrapolated === true);
            return [point.signal, point.extrapolated === extrapolated || joins ? shown(point.value) : null] as const;
        });
    const { below, above } = sheet.fault_limits;
    const limits = [
        ...(typeof below === 'number' ? [{ at: below, label: 'fault below' }] : []),
        ...(typeof above === 'number' ? [{ at: above, label: 'fault above' }] : []),
    ];
    const series: Series[] = [{ name: 'curve', points: part(false) }];
    if (curve.some((point) => point.extrapolated)) {
        series.push({ name: 'extrapolated', points: part(true), look: 'broken' });
    }
    return (
        <CurvePlot
            title={`${definition.title} over the signal`}
            xLabel={`signal at the input, ${sheet.signal_unit}`}
            yLabel={`${definition.title}, ${shownUnit(definition.unit, job.units)}`}
            series={series}
            dots={sheet.points.map(([signal = 0, value = 0]) => [signal, shown(value)] as const)}
            xLimits={limits}
            height={330}
        />
    );
}
