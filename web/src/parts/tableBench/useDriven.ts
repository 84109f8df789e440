import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';

import { passesQuery, passQuery } from '../../api/fuelMap';
import { gridOf } from '../draft/grid';
import type { Driven } from './layers';

const MAPS = ['ve', 've_second_cam', 'air_meter'];

/** What the newest pass of drives says of this table; none where it is of another, or the axes were changed since. */
export function useDriven(jobId: number, table: string, axes: readonly { points: readonly number[] }[]): Driven | null {
    const isMap = MAPS.includes(table);
    const newest = useQuery({ ...passesQuery(jobId), enabled: isMap }).data?.passes[0]?.number;
    const pass = useQuery({ ...passQuery(jobId, newest ?? 0), enabled: isMap && newest !== undefined }).data?.result;
    return useMemo(() => {
        const alike = pass?.table === table && JSON.stringify(pass.axes.slice(-axes.length)) === JSON.stringify(axes.map(({ points }) => points));
        if (!alike) return null;
        const cells = (value: (row: number, column: number) => number) => gridOf({ values: pass.factor.map((line, row) => line.map((_, column) => value(row, column))) });
        return {
            seconds: cells((row, column) => pass.hits[row]?.[column] ?? 0),
            asked: cells((row, column) => 100 * ((pass.factor[row]?.[column] ?? 1) - 1)),
            band: cells((row, column) => 50 * ((pass.high[row]?.[column] ?? 1) - (pass.low[row]?.[column] ?? 1))),
        };
    }, [pass, table, axes]);
}
