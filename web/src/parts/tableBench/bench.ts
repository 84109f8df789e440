import type { Dispatch } from 'react';

import type { Calibration, Schemas } from '../../api/client';
import type { Draft, DraftAction } from '../draft/draft';
import type { Grid } from '../draft/grid';
import type { Display } from './display';
import type { Head } from './SheetGrid';

/** What the bench is about: one table of a revision, and the draft that rests on it. */
export interface BenchOf {
    /** The revision the draft rests on, and the newest one. */
    base: Calibration;
    newest: number;
    definition: Schemas['TableDefinition'];
    form: Schemas['ControllerForm'] | undefined;
    draft: Draft;
    dispatch: Dispatch<DraftAction>;
    /** The draft with everything dispatched so far, drawn or not. */
    now: () => Draft;
}

/** The table as it is drawn: saved and drafted values, where they come from, heads, and units. */
export interface Drawn {
    table: Schemas['TableOut'];
    dimensions: number;
    saved: Grid;
    grid: Grid;
    marks: Schemas['Provenance'][][];
    locked: ReadonlySet<string>;
    display: Display;
    heads: Head[];
    down: Head;
    across: Head | null;
}

/** What the bench has to say: what was done, or why not. */
export interface Voice {
    said: string;
    refusal: string;
    say: (sentence: string) => void;
    refuse: (sentence: string) => void;
}
