import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { mono } from '../../parts/theme';
import { formatNumber } from '../../units/units';
import { inUnits } from '../../units/said';

interface Props {
    sheet: Schemas['InjectorSheet'];
    chosen: number | null;
    onChoose: (injections: number) => void;
}

/** Once or twice per cycle, and which mode the signals allow: the consequence in numbers. */
export function Modes({ sheet, chosen, onChoose }: Props) {
    const heads = ['Mode', 'Idle, open', 'Dead time', 'Duty', 'Per cycle'];
    return (
        <Box sx={{ overflowX: 'auto' }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
                How often they open
            </Typography>
            <Box component="table" aria-label="Injection modes" sx={{ borderCollapse: 'collapse', width: '100%', '& td, & th': { py: 0.5, pr: 1, textAlign: 'left', verticalAlign: 'top', borderBottom: 1, borderColor: 'divider' } }}>
                <thead>
                    <tr>
                        {heads.map((head) => (
                            <Box component="th" key={head} sx={{ fontSize: '0.86rem', color: 'text.secondary' }}>
                                {head}
                            </Box>
                        ))}
                    </tr>
                </thead>
                <tbody>
                    {sheet.modes.map((mode) => (
                        <Box component="tr" key={mode.key} sx={{ opacity: mode.allowed ? 1 : 0.75 }}>
                            <td>
                                <Typography sx={{ fontSize: '0.93rem', lineHeight: 1.2, textDecoration: mode.allowed ? 'none' : 'line-through' }}>{mode.title}</Typography>
                                {mode.sentence && <Typography variant="caption">{inUnits(mode.sentence)}</Typography>}
                            </td>
                            <Figure>{`${formatNumber(mode.idle_open_ms, 2)} ms`}</Figure>
                            <Figure>{`${formatNumber(mode.dead_time_share_pct, 0)} %`}</Figure>
                            <Figure>{typeof mode.duty_at_limit_pct === 'number' ? `${formatNumber(mode.duty_at_limit_pct, 0)} %` : '–'}</Figure>
                            <td>
                                {mode.allowed &&
                                    (chosen === mode.injections_per_cycle ? (
                                        <Typography variant="caption" sx={{ color: 'primary.main', fontWeight: 650 }}>
                                            in use: {mode.injections_per_cycle}
                                        </Typography>
                                    ) : (
                                        <Button size="small" variant="outlined" sx={{ whiteSpace: 'nowrap' }} onClick={() => onChoose(mode.injections_per_cycle)}>
                                            Use {mode.injections_per_cycle}
                                        </Button>
                                    ))}
                            </td>
                        </Box>
                    ))}
                </tbody>
            </Box>
        </Box>
    );
}

function Figure({ children }: { children: string }) {
    return (
        <Box component="td" sx={{ fontFamily: mono, fontSize: '0.9rem', whiteSpace: 'nowrap' }}>
            {children}
        </Box>
    );
}
