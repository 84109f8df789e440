import { createContext, use } from 'react';

import type { Job, Vocabulary } from '../api/client';

export interface JobAndVocabulary {
    job: Job;
    vocabulary: Vocabulary;
}

export const JobContext = createContext<JobAndVocabulary | null>(null);

/** The job of the sheet, and the words and definitions of the server. */
export function useJob(): JobAndVocabulary {
    const value = use(JobContext);
    if (!value) throw new Error('a sheet of a job is shown outside a job');
    return value;
}
