import { useQuery } from '@tanstack/react-query';

import { calibrationQuery } from '../../api/calibration';
import type { Calibration } from '../../api/client';
import { useJob } from '../jobContext';
import { useDraft } from './useDraft';

/**
 * The draft of the job, shared by ladder and table bench, and the revision it rests on: what was
 * typed on an older one is shown on it until it is brought onto the newest.
 */
export function useJobDraft(newest: Calibration) {
    const { job } = useJob();
    const { draft, dispatch, now } = useDraft(job.id, newest.revision);
    const rests = draft.done.length > 0 ? draft.revision : newest.revision;
    const older = useQuery({ ...calibrationQuery(job.id, rests), enabled: rests !== newest.revision });
    return { draft, dispatch, now, base: rests === newest.revision ? newest : older.data, error: older.error };
}
