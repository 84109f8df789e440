/** The day of a stamp of the server, in one form everywhere: 25 Nov 2026. */
export function day(stamp: string): string {
    return new Date(stamp).toLocaleDateString('en-GB', { dateStyle: 'medium' });
}

/** Day and minute of a stamp of the server: 25 Nov 2026, 14:43. */
export function moment(stamp: string): string {
    return new Date(stamp).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
}
