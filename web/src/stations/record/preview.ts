import type { Schemas } from '../../api/client';

export type Preview = Schemas['PreviewOut'];
/** What a column is: a channel, a channel in a unit, or left out. */
export type Choice = string | { channel: string; unit: string } | null;
export type Mapping = Record<string, Choice>;

/** The fields of a request about a kept upload and how its columns are read. */
export function uploadFields(uploadId: string, mapping: Mapping): Record<string, string> {
    const decided = Object.keys(mapping).length > 0;
    return { upload_id: uploadId, ...(decided ? { mapping: JSON.stringify(mapping) } : {}) };
}
