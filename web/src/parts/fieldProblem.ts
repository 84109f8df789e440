import { ApiProblem } from '../api/client';

/** The sentence that any of several refusals has for a field. */
export function fieldProblem(errors: readonly (Error | null | undefined)[], name: string): string | undefined {
    for (const error of errors) {
        const sentence = error instanceof ApiProblem ? error.field(name) : undefined;
        if (sentence) return sentence;
    }
    return undefined;
}
