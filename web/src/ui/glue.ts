/** Before what follows a word of a sentence without a space: without it a comma could begin a line. */
export const GLUE = "\u2060";
