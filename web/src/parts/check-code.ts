/** As much of a hash as two papers are compared by, in groups that an eye can hold; the same as on every printed page. */
export const codeOf = (hash: string) => hash.slice(0, 16).replace(/(.{4})(?=.)/g, "$1 ");
