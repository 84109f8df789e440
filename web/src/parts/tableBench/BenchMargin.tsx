import Stack from '@mui/material/Stack';
import { useDeferredValue, useMemo } from 'react';

import type { Schemas } from '../../api/client';
import { formatNumber } from '../../units/units';
import { indexOf, type Cell, type Grid } from '../draft/grid';
import type { Drawn } from './bench';
import { CellNote } from './CellNote';
import { Checks, type Finding } from './Checks';
import type { useChecks } from './useChecks';

interface Props {
    definition: Schemas['TableDefinition'];
    drawn: Drawn;
    here: Cell;
    hits: Grid | null;
    checks: ReturnType<typeof useChecks>;
    onShow: (finding: Finding) => void;
    onAccept: (finding: Finding, reason: string) => void;
}

/** What stands out in the table, and the selected cell. It may follow a moment later than the sheet. */
export function BenchMargin({ definition, drawn, here, hits, checks, onShow, onAccept }: Props) {
    const { dimensions, heads, table, saved, marks, display } = drawn;
    const grid = useDeferredValue(drawn.grid);
    const { row, column } = useDeferredValue(here);
    const index = useMemo(() => indexOf({ row, column }, dimensions), [row, column, dimensions]);
    const at = useMemo(() => index.map((i, axis) => table.axes[axis]?.points[i] ?? 0), [index, table.axes]);
    const place = index.map((i, axis) => `${formatNumber(heads[axis]?.points[i] ?? 0, heads[axis]?.decimals ?? 0)} ${heads[axis]?.unit ?? ''}`).join(', ');
    return (
        <Stack spacing={2}>
            <Checks findings={checks.findings} pending={checks.accept.isPending} error={checks.accept.error} onShow={onShow} onAccept={onAccept} />
            <CellNote
                definition={definition}
                display={display}
                place={place}
                index={index}
                at={at}
                value={grid[row]?.[column] ?? 0}
                saved={saved[row]?.[column] ?? 0}
                mark={marks[row]?.[column]}
                hits={hits?.[row]?.[column]}
            />
        </Stack>
    );
}
