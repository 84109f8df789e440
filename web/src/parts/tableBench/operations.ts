import type { Schemas } from '../../api/client';

export type Operation = Schemas['OperateIn']['operation'];

/** Keys of the operations, and what their amount is called. */
export const OPERATION_KEYS: Record<Operation, string> = {
    set: '=',
    add: 'a',
    percent: 'm',
    interpolate_across: 'i',
    interpolate_down: 'k',
    interpolate: 'x',
    smooth: 's',
    fill_right: 'f',
    fill_down: 'd',
};

export const AMOUNT_OF: Partial<Record<Operation, 'value' | 'percent' | 'share'>> = {
    set: 'value',
    add: 'value',
    percent: 'percent',
    smooth: 'share',
};
