import Box from '@mui/material/Box';
import Tooltip from '@mui/material/Tooltip';
import { useEffect, useRef } from 'react';
import { Link, useLocation } from 'react-router';

import type { Job, Vocabulary } from '../api/client';
import { useJob } from '../parts/jobContext';
import { mono } from '../parts/theme';
import { stationAt, STATIONS } from '../stations/registry';

type Station = Vocabulary['stations'][number];

/** The order of work as a ruled line; a filled mark is where you are, a bar is a closed gate. */
export function StationLine({ newestTrial }: { newestTrial: number | undefined }) {
    const { job, vocabulary } = useJob();
    const { pathname } = useLocation();
    const line = useHereInSight(pathname);
    const base = `/jobs/${job.id}`;
    const here = stationAt(pathname.slice(base.length + 1))?.key;
    return (
        <Box
            component="nav"
            aria-label="Order of work"
            className="no-print"
            sx={{ position: 'relative', overflowX: 'auto', bgcolor: 'background.paper', borderBottom: 1, borderColor: 'divider' }}
        >
            <Box component="ol" ref={line} sx={{ display: 'flex', listStyle: 'none', m: 0, px: 2, py: 0.5, minWidth: 'max-content' }}>
                {vocabulary.stations.map((station) => (
                    <Box component="li" key={station.key} sx={{ flex: '1 0 auto' }}>
                        <StationMark
                            station={station}
                            to={`${base}/${placeOf(station.key, newestTrial)}`}
                            isHere={station.key === here}
                            gate={gateAt(station.key, job)}
                        />
                    </Box>
                ))}
            </Box>
        </Box>
    );
}

/** Scroll the line so that the station one is at stands in its middle. */
function useHereInSight(pathname: string) {
    const line = useRef<HTMLOListElement>(null);
    useEffect(() => {
        const here = line.current?.querySelector<HTMLElement>('[aria-current=page]');
        const scroller = line.current?.parentElement;
        if (here && scroller) scroller.scrollLeft = here.offsetLeft - scroller.clientWidth / 2;
    }, [pathname]);
    return line;
}

function placeOf(key: string, newestTrial: number | undefined): string {
    if (key === 'trial' && newestTrial !== undefined) return `trials/${newestTrial}`;
    return STATIONS.find((station) => station.key === key)?.home ?? '';
}

/** What is closed at a station; undefined where nothing is. */
function gateAt(key: string, job: Job): string | undefined {
    const { station, gate } = job.next_action;
    const isNext = station === key && gate !== '';
    return isNext || job.gates.some((entry) => entry.key === key && entry.is_refused) ? gate : undefined;
}

function StationMark({ station, to, isHere, gate }: { station: Station; to: string; isHere: boolean; gate: string | undefined }) {
    const look = {
        display: 'block',
        px: 1.25,
        py: 0.4,
        textAlign: 'center',
        textDecoration: 'none',
        whiteSpace: 'nowrap',
        borderBottom: 3,
        borderColor: isHere ? 'primary.main' : 'transparent',
    } as const;
    const label = <StationLabel station={station} isHere={isHere} isClosed={gate !== undefined} />;
    return (
        <Tooltip title={gate === undefined ? station.does : `${station.does} Gate: ${gate}`}>
            <Box
                component={Link}
                to={to}
                aria-current={isHere ? 'page' : undefined}
                sx={{ ...look, color: 'primary.main', '&:hover': { bgcolor: 'action.hover' } }}
            >
                {label}
            </Box>
        </Tooltip>
    );
}

function StationLabel({ station, isHere, isClosed }: { station: Station; isHere: boolean; isClosed: boolean }) {
    return (
        <>
            <Box component="span" aria-hidden sx={{ fontFamily: mono, fontSize: '0.8rem', display: 'block', lineHeight: 1.2 }}>
                {station.number}
                {isClosed && ' ┃'}
            </Box>
            <Box component="span" sx={{ fontSize: '0.86rem', fontWeight: isHere ? 700 : 500 }}>
                {station.title}
            </Box>
        </>
    );
}
