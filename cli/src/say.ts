/** Prints one line. */
export type Say = (line: string) => unknown;
