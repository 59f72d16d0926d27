/** What a name in a list means that is none of ours, and one that is ours and not on record yet. */
export const NOT_FOR_US = "-";
export const NEW = "+";
