/** Where a number comes from, as a person says it of a part. */
export const DATA_FROM: Record<string, string> = {
    measured: 'measured',
    data_sheet: 'data sheet',
    calculated: 'calculated',
    carried_over: 'carried over',
    assumed: 'assumed',
};
