/** The types of `ports.mjs`, for tests that are written in TypeScript. */
export function freePort(): Promise<number>;
