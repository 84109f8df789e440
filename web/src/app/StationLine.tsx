import Box from '@mui/material/Box';
import Tooltip from '@mui/material/Tooltip';
import { useEffect, useRef } from 'react';
import { Link, useLocation } from 'react-router';

import { visuallyHidden } from '../parts/visuallyHidden';

import { useJob } from './jobContext';
import { mono } from './theme';

/** The order of work as a ruled line; a filled mark is where you are, a bar is a closed gate. */
export function StationLine({ newestTrial }: { newestTrial: number | undefined }) {
    const { job, vocabulary } = useJob();
    const { pathname } = useLocation();
    const line = useRef<HTMLOListElement>(null);
    useEffect(() => {
        const here = line.current?.querySelector<HTMLElement>('[aria-current=page]');
        const scroller = line.current?.parentElement;
        if (here && scroller) scroller.scrollLeft = here.offsetLeft - scroller.clientWidth / 2;
    }, [pathname]);
    const base = `/jobs/${job.id}`;
    const paths: Record<string, string> = {
        intake: `${base}/intake`,
        wiring: `${base}/wiring`,
        sensors: `${base}/sensors`,
        injectors: `${base}/injectors`,
        trigger: `${base}/trigger`,
        'base-maps': `${base}/base-maps`,
        ladder: `${base}/ladder`,
        trial: newestTrial === undefined ? `${base}/record` : `${base}/trials/${newestTrial}`,
    };
    const isHere = (key: string) =>
        key === 'trial'
            ? pathname.includes('/trials/') || pathname.endsWith('/record')
            : paths[key] !== undefined && pathname.startsWith(paths[key]);
    return (
        <Box
            component="nav"
            aria-label="Order of work"
            className="no-print"
            sx={{ position: 'relative', overflowX: 'auto', bgcolor: 'background.paper', borderBottom: 1, borderColor: 'divider' }}
        >
            <Box
                component="ol"
                ref={line}
                sx={{ display: 'flex', listStyle: 'none', m: 0, px: 2, py: 0.5, minWidth: 'max-content' }}
            >
                {vocabulary.stations.map((station) => {
                    const here = isHere(station.key);
                    const closed =
                        (station.key === job.next_action.station && job.next_action.gate !== '') ||
                        job.gates.some((gate) => gate.key === station.key && gate.is_refused);
                    const label = (
                        <>
                            <Box
                                component="span"
                                aria-hidden
                                sx={{ fontFamily: mono, fontSize: '0.8rem', display: 'block', lineHeight: 1.2 }}
                            >
                                {station.number}
                                {closed && ' ┃'}
                            </Box>
                            <Box component="span" sx={{ fontSize: '0.86rem', fontWeight: here ? 700 : 500 }}>
                                {station.title}
                            </Box>
                        </>
                    );
                    const look = {
                        display: 'block',
                        px: 1.25,
                        py: 0.4,
                        textAlign: 'center',
                        textDecoration: 'none',
                        whiteSpace: 'nowrap',
                        borderBottom: 3,
                        borderColor: here ? 'primary.main' : 'transparent',
                    } as const;
                    return (
                        <Box component="li" key={station.key} sx={{ flex: '1 0 auto' }}>
                            {station.built ? (
                                <Tooltip title={closed ? `${station.does} Gate: ${job.next_action.gate}` : station.does}>
                                    <Box
                                        component={Link}
                                        to={paths[station.key] ?? base}
                                        aria-current={here ? 'page' : undefined}
                                        sx={{ ...look, color: 'primary.main', '&:hover': { bgcolor: 'action.hover' } }}
                                    >
                                        {label}
                                    </Box>
                                </Tooltip>
                            ) : (
                                <Tooltip title={`Coming: ${station.does}`}>
                                    <Box
                                        component="span"
                                        sx={{ ...look, color: 'ink.faint', cursor: 'default' }}
                                    >
                                        {label}
                                        <Box component="span" sx={visuallyHidden}>
                                            , coming
                                        </Box>
                                    </Box>
                                </Tooltip>
                            )}
                        </Box>
                    );
                })}
            </Box>
        </Box>
    );
}
