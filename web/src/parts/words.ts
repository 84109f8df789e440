/** Return a text with a capital letter at its beginning. */
export const capitalised = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
