/** Beside a search that waits for changes that are not sent yet. */
export const ONCE_SAVED = "Available once your last changes are saved.";
