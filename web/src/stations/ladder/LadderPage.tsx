import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import { useQuery } from '@tanstack/react-query';
import { useReducer, useState } from 'react';

import { calibrationQuery, trialsQuery } from '../../api/queries';
import { useJob } from '../../app/jobContext';
import { WithMargin } from '../../app/Margin';
import { useKeys } from '../../app/shortcuts';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
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
    const [selected, setSelected] = useState<CellAt>({ table: 'cranking_fuel', index: 0 });
    useKeys({ u: () => dispatch({ type: 'undo' }), U: () => dispatch({ type: 'redo' }) });
    if (calibration.isPending) return <Loading what="Opening the ladder" />;
    if (calibration.isError) return <ProblemNote error={calibration.error} />;
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
