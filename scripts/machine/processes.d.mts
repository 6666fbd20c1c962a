/** The types of `processes.mjs`, for benchmarks that are written in TypeScript. */
export function startNode(
  what: string,
  args: readonly string[],
  env: Readonly<Record<string, string>>,
  onLine?: (line: string) => void,
): Promise<{ readonly pid: number; stop(): Promise<void> }>;
