import { keepPreviousData, queryOptions } from '@tanstack/react-query';

import { learnUnits } from '../app/units';
import { client, unwrap } from './client';

/** Requests as options objects: the keys live here and nowhere else. */
export const sessionQuery = queryOptions({
    queryKey: ['session'],
    queryFn: () => unwrap(client.GET('/api/session')),
    // Asked once: a session that ends shows in the next refusal, without taking the sheet away.
    staleTime: Infinity,
    refetchOnWindowFocus: false,
});

export const vocabularyQuery = queryOptions({
    queryKey: ['vocabulary'],
    queryFn: async () => {
        const vocabulary = await unwrap(client.GET('/api/vocabulary'));
        learnUnits(vocabulary.units, vocabulary.conversions);
        return vocabulary;
    },
    staleTime: Infinity,
});

export const jobsQuery = queryOptions({
    queryKey: ['jobs'],
    queryFn: () => unwrap(client.GET('/api/jobs')),
});

export const jobQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}', { params: { path: { job_id: jobId } } })),
    });

export const calibrationQuery = (jobId: number, revision?: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'calibration', revision ?? 'newest'],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/calibration', {
                    params: { path: { job_id: jobId }, query: { revision } },
                }),
            ),
    });

export const revisionsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'revisions'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/revisions', { params: { path: { job_id: jobId } } })),
    });

export const diffQuery = (jobId: number, first: number, second: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'diff', first, second],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/calibration/diff', {
                    params: { path: { job_id: jobId }, query: { first, second } },
                }),
            ),
    });

export const trialsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'trials'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/trials', { params: { path: { job_id: jobId } } })),
    });

export const trialQuery = (jobId: number, trialId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'trials', trialId],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/trials/{trial_id}', {
                    params: { path: { job_id: jobId, trial_id: trialId } },
                }),
            ),
    });

export const logsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'logs'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/logs', { params: { path: { job_id: jobId } } })),
    });

export const samplesQuery = (jobId: number, logId: number, startS = 0, endS = 1e9) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'logs', logId, 'samples', startS, endS],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/logs/{log_id}/samples', {
                    params: {
                        path: { job_id: jobId, log_id: logId },
                        query: { start_s: startS, end_s: endS },
                    },
                }),
            ),
        staleTime: Infinity,
    });

export const benchQuery = queryOptions({
    queryKey: ['bench'],
    queryFn: () => unwrap(client.GET('/api/bench')),
    staleTime: Infinity,
});

export const hardwareQuery = queryOptions({
    queryKey: ['hardware'],
    queryFn: () => unwrap(client.GET('/api/hardware')),
    staleTime: Infinity,
});

export const sensorsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'sensors'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/sensors', { params: { path: { job_id: jobId } } })),
    });

export const keyOnQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'key-on'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/key-on', { params: { path: { job_id: jobId } } })),
    });

export const agreementQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'agreement'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/agreement', { params: { path: { job_id: jobId } } })),
    });

export const injectorsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'injectors'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/injectors', { params: { path: { job_id: jobId } } })),
    });

export const supplyQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'supply'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/supply', { params: { path: { job_id: jobId } } })),
    });

export const wiringQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'wiring'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/wiring', { params: { path: { job_id: jobId } } })),
    });

export const outputsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'outputs'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/outputs', { params: { path: { job_id: jobId } } })),
    });

export const threeWireQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'three-wire'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/three-wire', { params: { path: { job_id: jobId } } })),
    });

export const triggerQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'trigger'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/trigger', { params: { path: { job_id: jobId } } })),
    });

export const capturesQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'captures'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/captures', { params: { path: { job_id: jobId } } })),
    });

export const timingQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'timing'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/timing', { params: { path: { job_id: jobId } } })),
    });

export const dwellQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'dwell'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/dwell', { params: { path: { job_id: jobId } } })),
    });

export const outputTestsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'output-tests'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/output-tests', { params: { path: { job_id: jobId } } })),
    });

export const wiringVocabularyQuery = queryOptions({
    queryKey: ['wiring-vocabulary'],
    queryFn: () => unwrap(client.GET('/api/wiring-vocabulary')),
    staleTime: Infinity,
});

export const controllersQuery = queryOptions({
    queryKey: ['controllers'],
    queryFn: () => unwrap(client.GET('/api/controllers')),
});

export const ribbonQuery = (jobId: number, number: number, startS: number, spanS: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'captures', number, 'ribbon', startS, spanS],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/captures/{number}/ribbon', {
                    params: { path: { job_id: jobId, number }, query: { start_s: startS, span_s: spanS } },
                }),
            ),
        staleTime: Infinity,
        placeholderData: keepPreviousData,
    });

export const intakeQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'intake'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/intake', { params: { path: { job_id: jobId } } })),
    });

export const reviewQuery = (jobId: number, revision?: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'review', revision ?? 'newest'],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/review', {
                    params: { path: { job_id: jobId }, query: { revision } },
                }),
            ),
    });

export const baseMapsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'base-maps'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/base-maps', { params: { path: { job_id: jobId } } })),
    });

export const nearestQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'nearest'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/base-maps/nearest', { params: { path: { job_id: jobId } } })),
    });

export const whyQuery = (jobId: number, table: string, at: number[]) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'why', table, at],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/base-maps/why', {
                    params: { path: { job_id: jobId }, query: { table, at } },
                }),
            ),
        placeholderData: keepPreviousData,
        retry: false,
    });

export const formsQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'controller-forms'],
        queryFn: () =>
            unwrap(client.GET('/api/jobs/{job_id}/controller-forms', { params: { path: { job_id: jobId } } })),
    });

export const operationsQuery = queryOptions({
    queryKey: ['table-bench'],
    queryFn: () => unwrap(client.GET('/api/table-bench')),
    staleTime: Infinity,
});

export const evidenceQuery = (jobId: number, table: string) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'evidence', table],
        queryFn: () =>
            unwrap(
                client.GET('/api/jobs/{job_id}/table-bench/evidence', {
                    params: { path: { job_id: jobId }, query: { table } },
                }),
            ),
    });

export const transferQuery = (jobId: number) =>
    queryOptions({
        queryKey: ['jobs', jobId, 'transfer'],
        queryFn: () => unwrap(client.GET('/api/jobs/{job_id}/transfer', { params: { path: { job_id: jobId } } })),
    });
