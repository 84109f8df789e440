import type { Schemas } from '../../api/client';
import { formatNumber } from '../../units/units';

/** What a pull was driven with, in one line. */
export const driven = ({ conditions: c, revision, from_rpm, to_rpm }: Schemas['PullRowOut']) =>
    [
        c.duty_pct == null ? '' : `${formatNumber(c.duty_pct, 1)} % duty`,
        c.part,
        c.gear && `gear ${c.gear}`,
        c.fuel,
        c.water && `water ${c.water}`,
        c.profile && `${c.profile} cam`,
        c.note,
        `${formatNumber(from_rpm, 0)}–${formatNumber(to_rpm, 0)} rpm`,
        revision === null ? '' : `revision ${revision}`,
    ]
        .filter(Boolean)
        .join(', ');

/** Most torque and where, said to be relative where it is. */
export const torqueOf = (row: Schemas['PullRowOut']) =>
    row.peak_torque === null ? '–' : `${formatNumber(row.peak_torque, 0)}${row.torque === 'measured' ? ' N·m' : ' rel.'} at ${formatNumber(row.peak_torque_rpm ?? 0, 0)} rpm`;
