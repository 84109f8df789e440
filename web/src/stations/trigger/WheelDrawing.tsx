import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { CHART_LETTERS_PX, useWidth } from '../../parts/useWidth';

const SIZE = 320;
const MIDDLE = SIZE / 2;
const RIM = 98;
const TOOTH = 14;
const CAM = 48;

/** A point at an angle, 0 at the top, growing clockwise. */
function at(radius: number, degrees: number): [number, number] {
    const turn = (degrees * Math.PI) / 180;
    return [MIDDLE + radius * Math.sin(turn), MIDDLE - radius * Math.cos(turn)];
}

function arc(radius: number, from: number, to: number): string {
    const [x1, y1] = at(radius, from);
    const [x2, y2] = at(radius, to);
    return `M ${x1} ${y1} A ${radius} ${radius} 0 ${to - from > 180 ? 1 : 0} 1 ${x2} ${y2}`;
}

/** The wheel as it is entered: teeth, gap, cam edges on the ring inside, top dead centres. */
export function WheelDrawing({ picture }: { picture: Schemas['WheelPicture'] }) {
    const [frame, drawn] = useWidth(SIZE);
    const scale = 360 / picture.turn_deg;
    const teeth = picture.edges_deg;
    const step = Math.min(...teeth.map((angle, i) => ((teeth[i + 1] ?? picture.turn_deg) - angle) * scale));
    const width = Math.min(step * 0.45, 30);
    return (
        <Box>
            <Typography variant="h3" component="div" sx={{ textAlign: 'center' }}>
                {picture.name}
            </Typography>
            <svg ref={frame} viewBox={`0 0 ${SIZE} ${SIZE}`} width="100%" role="img" aria-label={`Wheel ${picture.name}: ${teeth.length} edges, ${picture.cam_edges_deg.length} cam edges`} style={{ maxWidth: SIZE, display: 'block', margin: '0 auto' }}>
                <circle cx={MIDDLE} cy={MIDDLE} r={RIM} fill="none" stroke="var(--mui-palette-ink-main)" strokeWidth="1.6" />
                {picture.gaps_deg.map(([from = 0, to = 0]) => (
                    <path key={from} d={arc(RIM + TOOTH / 2, from * scale + width, to * scale)} fill="none" stroke="var(--mui-palette-warning-main)" strokeWidth={TOOTH} strokeOpacity="0.3" />
                ))}
                {teeth.map((angle, i) => (
                    <path
                        key={angle}
                        d={arc(RIM + TOOTH / 2, angle * scale, angle * scale + width)}
                        fill="none"
                        stroke={i === 0 ? 'var(--mui-palette-primary-main)' : 'var(--mui-palette-ink-main)'}
                        strokeWidth={i === 0 ? 1.8 * TOOTH : TOOTH}
                    />
                ))}
                {picture.top_dead_centres_deg.map((angle, i) => {
                    const [x, y] = at(RIM + TOOTH + 22, angle * scale);
                    const [x1, y1] = at(RIM - 4, angle * scale);
                    const [x2, y2] = at(RIM - 26, angle * scale);
                    return (
                        <g key={angle} stroke={i === 0 ? 'var(--mui-palette-primary-main)' : 'var(--mui-palette-ink-faint)'}>
                            <line x1={x1} y1={y1} x2={x2} y2={y2} strokeWidth={i === 0 ? 3 : 1.5} />
                            {i === 0 && (
                                <text x={x} y={y + 5} textAnchor="middle" fontSize={(CHART_LETTERS_PX * SIZE) / drawn} fontWeight="700" stroke="none" fill="var(--mui-palette-primary-main)">
                                    TDC 1
                                </text>
                            )}
                        </g>
                    );
                })}
                {picture.cam_edges_deg.length > 0 && (
                    <>
                        <circle cx={MIDDLE} cy={MIDDLE} r={CAM} fill="none" stroke="var(--mui-palette-ink-main)" strokeWidth="1.4" strokeDasharray="5 4" />
                        {picture.cam_edges_deg.map((angle) => (
                            <path key={angle} d={arc(CAM + 6, angle / 2, angle / 2 + 9)} fill="none" stroke="var(--mui-palette-ink-main)" strokeWidth="12" />
                        ))}
                    </>
                )}
                <path d={arc(RIM - 34, 300, 330)} fill="none" stroke="currentColor" strokeWidth="1.5" />
                <path d={`M ${at(RIM - 34, 336).join(' ')} L ${at(RIM - 39, 328).join(' ')} L ${at(RIM - 29, 328).join(' ')} Z`} fill="currentColor" />
            </svg>
            <Typography variant="caption" component="p" sx={{ textAlign: 'center' }}>
                First edge at the top, the tall tooth; {picture.gaps_deg.length > 0 && 'gap shaded; '}
                {picture.cam_edges_deg.length > 0 && 'cam on the broken ring, one turn in 720°; '}
                angles grow clockwise, the way the wheel passes its sensor.
            </Typography>
        </Box>
    );
}
