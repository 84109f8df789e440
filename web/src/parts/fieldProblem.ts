import { ApiProblem } from '../api/client';
import { inUnits } from '../units/said';
import type { UnitChoice } from '../units/units';

/** The sentence that any of several refusals has for a field. */
export function fieldProblem(errors: readonly (Error | null | undefined)[], name: string, units?: UnitChoice): string | undefined {
    for (const error of errors) {
        const sentence = error instanceof ApiProblem ? error.field(name) : undefined;
        if (sentence) return inUnits(sentence, units);
    }
    return undefined;
}
