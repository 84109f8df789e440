import type { Schemas } from '../../api/client';
import type { Level } from '../../parts/Sentences';

const LEVELS: Record<Schemas['Point']['state'], Level> = { good: 'good', attention: 'attention', stop: 'stop', missing: 'attention', stale: 'attention' };

/** How serious the server says a condition of the warm idle is. */
export function levelOf(idle: Schemas['IdleOut'], key: string): Level {
    const point = idle.points.find((one) => one.key === key);
    return point ? LEVELS[point.state] : 'attention';
}
