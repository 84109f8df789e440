import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useReducer, useState } from 'react';

import type { Calibration, Trial } from '../../api/client';
import { calibrationQuery } from '../../api/calibration';
import { trialsQuery } from '../../api/logbook';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { useKeys } from '../../parts/shortcuts';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { visuallyHidden } from '../../parts/visuallyHidden';
import { CellMargin } from './CellMargin';
import { editsReducer, NO_EDITS, type CellAt } from './edits';
import { LadderGrid } from './LadderGrid';
import { Legend } from './Legend';
import { RevisionsPanel } from './RevisionsPanel';
import { SaveBar } from './SaveBar';

/** The ladder: all start tables over coolant temperature, with their evidence. */
export function LadderPage() {
    const { job, vocabulary } = useJob();
    const calibration = useQuery(calibrationQuery(job.id));
    const trials = useQuery(trialsQuery(job.id));
    const [tab, setTab] = useState<'tables' | 'revisions'>('tables');
    const [edits, dispatch] = useReducer(editsReducer, NO_EDITS);
    const [chosen, setSelected] = useState<CellAt | null>(null);
    useKeys({ u: () => dispatch({ type: 'undo' }), U: () => dispatch({ type: 'redo' }) });
    // A failed refetch must not take away the sheet, and with it what was typed.
    if (!calibration.data) {
        return calibration.isError ? (
            <ProblemNote error={calibration.error} />
        ) : (
            <Loading what="Opening the ladder" />
        );
    }
    const selected = chosen ?? firstCell(calibration.data, trials.data ?? []);
    const definitions = vocabulary.tables.filter((table) => table.group === 'start');
    return (
        <WithMargin
            margin={
                <CellMargin
                    calibration={calibration.data}
                    definitions={definitions}
                    cell={selected}
                    edited={edits.present}
                    trials={trials.data ?? []}
                />
            }
        >
            <Typography variant="h1" sx={visuallyHidden}>
                Ladder
            </Typography>
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, mb: 0.5 }}>
                <Tabs
                    value={tab}
                    onChange={(_, value: 'tables' | 'revisions') => setTab(value)}
                    sx={{ minHeight: 36, flex: 1, '& .MuiTab-root': { minHeight: 36, py: 0.5 } }}
                >
                    <Tab value="tables" label={`Ladder, revision ${calibration.data.revision}`} />
                    <Tab value="revisions" label="Revisions" />
                </Tabs>
                {tab === 'tables' && <Legend />}
            </Box>
            {tab === 'tables' ? (
                <>
                    <LadderGrid
                        calibration={calibration.data}
                        definitions={definitions}
                        trials={trials.data ?? []}
                        edited={edits.present}
                        selected={selected}
                        onSelect={setSelected}
                        onEdit={(cell, value, saved) => dispatch({ type: 'set', cell, value, saved })}
                    />
                    <SaveBar
                        calibration={calibration.data}
                        edits={edits}
                        dispatch={dispatch}
                    />
                </>
            ) : (
                <RevisionsPanel newest={calibration.data.revision} />
            )}
        </WithMargin>
    );
}

/** Where the eye should fall first: the table and rung of the newest trial's advice, else its rung. */
function firstCell(calibration: Calibration, trials: Trial[]): CellAt {
    const newest = trials[0];
    const advice = newest?.advice[0];
    const change = advice?.changes[0];
    if (advice?.table && change && calibration.tables[advice.table]?.axes.length === 1) {
        return { table: advice.table, index: change.index[0] ?? 0 };
    }
    const points = calibration.tables.cranking_fuel?.axes[0]?.points ?? [];
    const place = newest?.coolant_c ?? 0;
    const distances = points.map((point) => Math.abs(point - place));
    return { table: 'cranking_fuel', index: Math.max(0, distances.indexOf(Math.min(...distances))) };
}
