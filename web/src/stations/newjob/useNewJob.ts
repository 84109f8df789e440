import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';

import { client, unwrap, type Vocabulary } from '../../api/client';
import { fieldProblem } from '../../parts/fieldProblem';
import type { UnitChoice } from '../../units/units';
import { axisOf, engineOf, isOddAxis, isOddDeadTime, type EngineEntry, type Form } from './form';

/** Judging engine data while they are typed, and making the job of them. */
export function useNewJob(form: Form, vocabulary: Vocabulary, units: UnitChoice) {
    const navigate = useNavigate();
    const queryClient = useQueryClient();
    // What is typed and cannot be read is said at its field; nothing is computed without it.
    const odd = isOddDeadTime(form.deadTime) || isOddAxis(form.coolantAxis, units);
    const engine = odd ? null : engineOf(form, vocabulary.engine_fields, units);
    const preview = useQuery({
        queryKey: ['preview', engine],
        queryFn: () => unwrap(client.POST('/api/jobs/preview', { body: { engine: engine as EngineEntry } })),
        enabled: engine !== null,
        placeholderData: keepPreviousData,
        retry: false,
    });
    const create = useMutation({
        mutationFn: () => {
            const coolant = axisOf(form.coolantAxis, units);
            const { name, note, overrideReason, car } = form;
            const axes = coolant ? { coolant_c: coolant } : null;
            const body = { name, note, engine: engine as EngineEntry, units, axes, override_reason: overrideReason, car };
            return unwrap(client.POST('/api/jobs', { body }));
        },
        onSuccess: async (job) => {
            await queryClient.invalidateQueries({ queryKey: ['jobs'], exact: true });
            await navigate(`/jobs/${job.id}/ladder`);
        },
    });
    const refusals = [create.error, engine ? preview.error : null];
    return {
        engine,
        create,
        judgement: engine && !preview.error ? preview.data : undefined,
        implausible: preview.data?.level === 'implausible' ? preview.data.sentences : null,
        problem: (name: string) => fieldProblem(refusals, name, units),
    };
}
