import { useMemo, useState } from 'react';

import type { Schemas } from '../../api/client';
import { shownUnit, toShown } from '../../units/units';
import { drafted } from '../draft/draft';
import { gridOf, marksOf } from '../draft/grid';
import { useJob } from '../jobContext';
import type { BenchOf, Drawn } from './bench';
import { displayOf } from './display';
import type { Head } from './SheetGrid';

const NO_HEAD: Head = { title: '', unit: '', points: [], decimals: 0 };

/** The table as it is drawn, in the controller's unit or the canonical one. */
export function useDrawn({ base, definition, form, draft }: BenchOf) {
    const { job } = useJob();
    const [isCanonical, setCanonical] = useState(false);
    const key = definition.key;
    const table = base.tables[key] as Schemas['TableOut'];
    const saved = useMemo(() => gridOf(table), [table]);
    const marks = useMemo(() => marksOf(table), [table]);
    const grid = useMemo(() => drafted(saved, key, draft.done), [saved, key, draft.done]);
    const locked = useMemo(() => new Set(draft.locked[key] ?? []), [draft.locked, key]);
    const display = useMemo(() => displayOf(definition, form, job.units, isCanonical), [definition, form, job.units, isCanonical]);
    const heads = useHeads(table);
    const drawn: Drawn = {
        table, dimensions: table.axes.length, saved, grid, marks, locked, display, heads,
        down: heads[0] ?? NO_HEAD, across: heads[1] ?? null,
    };
    return { drawn, isCanonical, setCanonical };
}

/** The axes in the job's units, with as many decimals as they need. */
function useHeads(table: Schemas['TableOut']): Head[] {
    const { job, vocabulary } = useJob();
    return useMemo(
        () =>
            table.axes.map((axis): Head => {
                const unit = shownUnit(axis.unit, job.units);
                const points = axis.points.map((point) => toShown(point, axis.unit, job.units));
                const isWhole = points.every((point) => Math.abs(point - Math.round(point)) < 0.05);
                const title = vocabulary.axes.find(({ name }) => name === axis.name)?.title ?? axis.name;
                return { title, unit, points, decimals: isWhole ? 0 : unit === 'bar' ? 2 : 1 };
            }),
        [table.axes, job.units, vocabulary.axes],
    );
}
