/** Where the two pages of a spread lie below each other. */
export const NARROW = "(max-width: 900px)";
