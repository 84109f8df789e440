/** The field that says what is on the chosen pin; Enter on a pin leads there. */
export const ON_THIS_PIN = 'on-this-pin';
