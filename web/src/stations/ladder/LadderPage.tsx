import Box from '@mui/material/Box';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';

import { calibrationQuery } from '../../api/calibration';
import type { Calibration, TrialRow } from '../../api/client';
import { estimateQuery, type Estimate } from '../../api/ladder';
import { trialsQuery } from '../../api/logbook';
import { SaveStrip } from '../../parts/draft/SaveStrip';
import { useJobDraft } from '../../parts/draft/useJobDraft';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { WithMargin } from '../../parts/Margin';
import { ProblemNote } from '../../parts/ProblemNote';
import { useKeys } from '../../parts/shortcuts';
import { visuallyHidden } from '../../parts/visuallyHidden';
import { CellMargin } from './CellMargin';
import { CurvesPanel } from './CurvesPanel';
import { editedCells, typedStep, type CellAt } from './edits';
import { Forecast } from './Forecast';
import { LadderGrid } from './LadderGrid';
import { Legend } from './Legend';
import { MorningsPanel } from './mornings/MorningsPanel';
import { RevisionsPanel } from './RevisionsPanel';

type Tab = 'tables' | 'curves' | 'mornings' | 'revisions';

/** The ladder: all start tables over coolant temperature, with their evidence. */
export function LadderPage() {
    const { job } = useJob();
    const calibration = useQuery(calibrationQuery(job.id));
    const trials = useQuery(trialsQuery(job.id));
    const estimate = useQuery(estimateQuery(job.id));
    // A failed refetch must not take away the sheet, and with it what was typed.
    if (calibration.data) return <Ladder newest={calibration.data} trials={trials.data ?? []} estimate={estimate.data} />;
    return calibration.isError ? <ProblemNote error={calibration.error} /> : <Loading what="Opening the ladder" />;
}

function Ladder({ newest, trials, estimate }: { newest: Calibration; trials: TrialRow[]; estimate: Estimate | undefined }) {
    const { vocabulary } = useJob();
    const { draft, dispatch, base, error } = useJobDraft(newest);
    const [tab, setTab] = useState<Tab>('tables');
    const [chosen, setChosen] = useState<CellAt | null>(null);
    const definitions = useMemo(() => vocabulary.tables.filter((table) => table.group === 'start'), [vocabulary.tables]);
    const edited = useMemo(() => (base ? editedCells(base, definitions, draft) : {}), [base, definitions, draft]);
    useKeys({ u: () => dispatch({ type: 'undo' }), U: () => dispatch({ type: 'redo' }) });
    if (!base) return error ? <ProblemNote error={error} /> : <Loading what="Opening what was typed" />;
    const selected = chosen ?? firstCell(base, trials);
    return (
        <WithMargin margin={<CellMargin calibration={base} definitions={definitions} cell={selected} edited={edited} trials={trials} estimate={estimate} />}>
            <LadderHead tab={tab} onTab={setTab} revision={base.revision} />
            {tab === 'tables' && (
                <>
                    <Forecast />
                    <LadderGrid
                        calibration={base}
                        definitions={definitions}
                        trials={trials}
                        estimate={estimate}
                        edited={edited}
                        selected={selected}
                        onSelect={setChosen}
                        onEdit={(cell, from, to) => dispatch({ type: 'step', step: typedStep(cell, from, to) })}
                    />
                    <SaveStrip base={base} newest={newest.revision} definitions={vocabulary.tables} draft={draft} dispatch={dispatch} />
                </>
            )}
            {tab === 'curves' && estimate && (
                <CurvesPanel
                    estimate={estimate}
                    definitions={definitions}
                    table={selected.table}
                    onTable={(table) => setChosen({ ...selected, table })}
                />
            )}
            {tab === 'mornings' && <MorningsPanel />}
            {tab === 'revisions' && <RevisionsPanel newest={newest.revision} />}
        </WithMargin>
    );
}

function LadderHead({ tab, onTab, revision }: { tab: Tab; onTab: (tab: Tab) => void; revision: number }) {
    return (
        <>
            <Typography variant="h1" sx={visuallyHidden}>
                Ladder
            </Typography>
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, mb: 0.5 }}>
                <Tabs
                    value={tab}
                    onChange={(_, value: Tab) => onTab(value)}
                    sx={{ minHeight: 36, flex: 1, '& .MuiTab-root': { minHeight: 36, py: 0.5 } }}
                >
                    <Tab value="tables" label={`Ladder, revision ${revision}`} />
                    <Tab value="curves" label="Curves" />
                    <Tab value="mornings" label="Mornings" />
                    <Tab value="revisions" label="Revisions" />
                </Tabs>
                {tab === 'tables' && <Legend />}
            </Box>
        </>
    );
}

/** Where the eye should fall first: the table and rung of the newest trial's advice, else its rung. */
function firstCell(calibration: Calibration, trials: TrialRow[]): CellAt {
    const newest = trials[0];
    const advice = newest?.advised;
    const index = advice?.index[0];
    if (advice?.table && index !== undefined && calibration.tables[advice.table]?.axes.length === 1) {
        return { table: advice.table, index };
    }
    const points = calibration.tables.cranking_fuel?.axes[0]?.points ?? [];
    const place = newest?.coolant_c ?? 0;
    const distances = points.map((point) => Math.abs(point - place));
    return { table: 'cranking_fuel', index: Math.max(0, distances.indexOf(Math.min(...distances))) };
}
