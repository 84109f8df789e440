import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import type { Calibration, Schemas } from '../../api/client';
import { calibrationQuery } from '../../api/calibration';
import { formsQuery } from './api';
import { useJobDraft } from '../../parts/draft/useJobDraft';
import { useJob } from '../../parts/jobContext';
import { Loading } from '../../parts/Loading';
import { ProblemNote } from '../../parts/ProblemNote';
import { SettingsSheet, TableBench, TableRail } from '../../parts/tableBench';

/** The table bench with the list of all tables beside it. */
export function BenchSheet({ table, base }: { table: string; base: string }) {
    const { job } = useJob();
    const calibration = useQuery(calibrationQuery(job.id));
    const forms = useQuery(formsQuery(job.id));
    if (!calibration.data || !forms.data) {
        const error = calibration.error ?? forms.error;
        return error ? <ProblemNote error={error} /> : <Loading what="Opening the table bench" />;
    }
    return <Bench newest={calibration.data} forms={forms.data} table={table} base={base} />;
}

interface Props {
    newest: Calibration;
    forms: Record<string, Schemas['ControllerForm']>;
    table: string;
    base: string;
}

function Bench({ newest, forms, table, base }: Props) {
    const { vocabulary } = useJob();
    const { draft, dispatch, now, base: on, error } = useJobDraft(newest);
    // The list and the margin can give their room to a wide map.
    const [isFolded, setFolded] = useState(false);
    if (!on) return error ? <ProblemNote error={error} /> : <Loading what="Opening what was typed" />;
    const definition = vocabulary.tables.find(({ key }) => key === table);
    const touched = [...new Set(draft.done.map((step) => step.table))];
    return (
        <Box sx={{ flex: 1, display: 'flex', minWidth: 0 }}>
            <Box sx={{ py: 1.5, borderRight: 1, borderColor: 'divider', display: { xs: 'none', sm: isFolded ? 'none' : 'block' } }}>
                <TableRail calibration={on} definitions={vocabulary.tables} here={table} base={base} touched={touched} />
            </Box>
            <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
                {table === 'settings' ? (
                    <SettingsSheet base={on} newest={newest.revision} forms={forms} draft={draft} dispatch={dispatch} />
                ) : definition && on.tables[table] ? (
                    <TableBench key={table} base={on} newest={newest.revision} definition={definition} form={forms[table]} draft={draft} dispatch={dispatch} now={now} isFolded={isFolded} onFold={setFolded} />
                ) : (
                    <Box sx={{ p: 2 }}>This calibration has no such table. Choose one at the left.</Box>
                )}
            </Box>
        </Box>
    );
}
