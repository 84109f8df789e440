/** How far a number can be trusted, in words. */
export type ProvenanceKind = 'measured' | 'data_sheet' | 'calculated' | 'carried_over' | 'assumed';

export const PROVENANCE_WORDS: Record<ProvenanceKind, string> = {
    measured: 'measured',
    data_sheet: 'data sheet',
    calculated: 'calculated',
    carried_over: 'carried over',
    assumed: 'assumed',
};
