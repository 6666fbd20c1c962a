/** The types of `folders.mjs`. */
export const root: string;
export const local: string;
