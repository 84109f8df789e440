/** A multipart body for the typed client, which would send JSON by itself. */
export function multipart(fields: Record<string, string | File>) {
    return {
        body: fields as never,
        bodySerializer: () => {
            const form = new FormData();
            Object.entries(fields).forEach(([name, value]) => form.append(name, value));
            return form;
        },
    };
}
