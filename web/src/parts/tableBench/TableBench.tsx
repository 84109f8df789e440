import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useMemo, useState } from 'react';

import type { Schemas } from '../../api/client';
import { SaveStrip } from '../draft/SaveStrip';
import { cellAt, gridOf, nested } from '../draft/grid';
import { useJob } from '../jobContext';
import { WithMargin } from '../Margin';
import { useKeys } from '../shortcuts';
import { useLatest } from '../useLatest';
import { evidenceQuery, operationsQuery } from './api';
import type { BenchOf } from './bench';
import { BenchFoot, JumpField } from './BenchFoot';
import { BenchHead } from './BenchHead';
import { BenchMargin } from './BenchMargin';
import { BenchView } from './BenchView';
import type { Finding } from './Checks';
import type { View } from './layers';
import type { Place } from './LogCursor';
import { OperationBar } from './OperationBar';
import { sentenceOf, useBench } from './useBench';
import { useChecks } from './useChecks';
import { useDriven } from './useDriven';

const NO_SENTENCES: readonly string[] = [];
const NO_OPERATIONS: Schemas['OperationOut'][] = [];

interface Props extends BenchOf {
    /** Whether list and margin give their room to the sheet. */
    isFolded: boolean;
    onFold: (isFolded: boolean) => void;
}

/** The table bench: every table and map is looked at and worked on here. */
export function TableBench({ isFolded, onFold, ...of }: Props) {
    const { base, newest, definition, form, draft, dispatch } = of;
    const { job, vocabulary } = useJob();
    const bench = useBench(of);
    const { drawn, selection, work, voice, jump } = bench;
    const [view, setView] = useState<View>('sheet');
    const [cursor, setCursor] = useState<Place | null>(null);
    const operations = useQuery(operationsQuery);
    const evidence = useQuery(evidenceQuery(job.id, definition.key));
    const hits = useMemo(() => (evidence.data ? gridOf({ values: evidence.data.hits }) : null), [evidence.data]);
    const driven = useDriven(job.id, definition.key, drawn.table.axes);
    const values = useMemo(() => nested(drawn.grid, drawn.dimensions), [drawn.grid, drawn.dimensions]);
    const checks = useChecks(base.revision, definition.key, values);
    const calmDraft = useDeferredValue(draft);
    useKeys({ u: () => dispatch({ type: 'undo' }), U: () => dispatch({ type: 'redo' }) });
    const show = useLatest((finding: Finding) => {
        selection.setRegion({ from: cellAt(finding.cells.at(-1) ?? [0, 0]), to: cellAt(finding.cells[0] ?? [0, 0]) });
        if (view === 'surface') setView('sheet');
    });
    const accept = useLatest((finding: Finding, reason: string) => checks.accept.mutate({ finding, reason }));
    const finish = useLatest(bench.finish);
    const focus = useLatest(bench.focus);
    const nudge = useLatest((percent: number) => {
        work.nudgePercent(percent);
        bench.focus();
    });
    return (
        <WithMargin isFolded={isFolded} margin={<BenchMargin definition={definition} drawn={drawn} here={selection.here} hits={hits} checks={checks} onShow={show} onAccept={accept} />}>
            <BenchHead
                definition={definition}
                form={form}
                unit={drawn.display.unit}
                isCanonical={bench.isCanonical}
                onCanonical={bench.setCanonical}
                view={view}
                hasSurface={drawn.across !== null}
                hasDrives={driven !== null}
                onView={setView}
                isFolded={isFolded}
                onFold={onFold}
            />
            <OperationBar
                operations={operations.data ?? NO_OPERATIONS}
                pending={work.pending}
                unit={drawn.display.unit}
                cells={selection.count}
                sentence={sentenceOf(bench, definition.meaning)}
                sentences={work.answer?.sentences ?? NO_SENTENCES}
                error={voice.refusal || work.error}
                count={work.answer?.changes.length ?? 0}
                onChange={work.setPending}
                onDo={finish}
                onDone={focus}
                onNudge={nudge}
            />
            {jump !== null && (
                <JumpField
                    text={jump}
                    unit={drawn.display.unit}
                    onText={bench.setJump}
                    onJump={() => bench.jumpTo(jump)}
                    onLeave={() => {
                        bench.setJump(null);
                        bench.focus();
                    }}
                />
            )}
            <BenchView
                definition={definition}
                drawn={drawn}
                view={view}
                hits={hits}
                driven={driven}
                here={selection.here}
                cursor={cursor}
                sheet={bench.sheet}
                handlers={{ ...bench.handlers, flagged: checks.flagged }}
                onMove={bench.movePoint}
            />
            {view === 'evidence' && evidence.data && (
                <Typography variant="body2" sx={{ mt: 0.5 }}>
                    {evidence.data.sentence}
                </Typography>
            )}
            <BenchFoot table={definition.key} axes={drawn.table.axes} revision={base.revision} onPlace={setCursor} />
            <SaveStrip base={base} newest={newest} definitions={vocabulary.tables} draft={calmDraft} dispatch={dispatch} />
        </WithMargin>
    );
}
