import Box from '@mui/material/Box';

import type { Schemas } from '../../api/client';
import { mono } from '../../parts/theme';
import { CHART_LETTERS_PX, useWidth } from '../../parts/useWidth';
import { formatNumber } from '../../units/units';

interface Props {
    advice: Schemas['StopAdvice'] | undefined;
    valve: number | undefined;
    sweep: Schemas['SweepOut'] | null | undefined;
}

const LEFT = 26;
const WIDTH = 430;

/** Where the valve stands in its range: shut, the band it should sit in, wide open. */
export function ValvePicture({ advice, valve, sweep }: Props) {
    const [frame, width] = useWidth(WIDTH);
    const x = (pct: number) => LEFT + (pct / 100) * (width - 2 * LEFT);
    const low = sweep?.minimum_pct ?? 0;
    const high = sweep?.maximum_pct ?? 100;
    const ink = 'var(--mui-palette-ink-main)';
    const band = advice ? ([advice.wanted_low_pct, advice.wanted_high_pct] as const) : null;
    return (
        <Box component="figure" sx={{ m: 0, maxWidth: 460 }}>
            <Box
                component="svg"
                ref={frame}
                viewBox={`0 0 ${width} 150`}
                role="img"
                aria-label={`Idle valve: works from ${formatNumber(low, 0)} to ${formatNumber(high, 0)} %${band ? `, should sit at ${formatNumber(band[0], 0)} to ${formatNumber(band[1], 0)} %` : ''}${valve === undefined ? '' : `, stands at ${formatNumber(valve, 0)} %`}`}
                sx={{ width: '100%', display: 'block', '& text': { fontFamily: mono, fontSize: CHART_LETTERS_PX, fill: 'var(--mui-palette-text-secondary)' } }}
            >
                <text x={LEFT} y={16}>
                    Idle valve [%]
                </text>
                {band && <rect x={x(band[0])} y={44} width={x(band[1]) - x(band[0])} height={36} fill="var(--mui-palette-primary-main)" opacity={0.22} />}
                {band && (
                    <text x={(x(band[0]) + x(band[1])) / 2} y={38} textAnchor="middle">
                        should sit here
                    </text>
                )}
                <line x1={x(0)} x2={x(100)} y1={80} y2={80} stroke={ink} strokeWidth={1} />
                <line x1={x(low)} x2={x(high)} y1={80} y2={80} stroke={ink} strokeWidth={5} />
                {[0, 25, 50, 75, 100].map((tick) => (
                    <g key={tick}>
                        <line x1={x(tick)} x2={x(tick)} y1={80} y2={88} stroke={ink} />
                        <text x={x(tick)} y={104} textAnchor="middle">
                            {tick}
                        </text>
                    </g>
                ))}
                <text x={(x(low) + x(high)) / 2} y={128} textAnchor="middle">
                    {sweep?.told ? `works from ${formatNumber(low, 0)} to ${formatNumber(high, 0)} %` : 'real limits not known yet: sweep it'}
                </text>
                {valve !== undefined && <path d={`M${x(valve)} 78l-9 -20h18z`} fill={ink} />}
            </Box>
        </Box>
    );
}
