import type { Schemas } from '../../api/client';
import { moment } from '../../parts/when';

/** A log as a drive is chosen by: its name, how long it is, and when it was brought. */
export function logLabel(log: Schemas['LogOut']) {
    return `${log.name}, ${Math.round(log.duration_s / 60)} min, ${moment(log.created_at)}`;
}
