/** The types of `postgres.mjs`. */
export function removeData(name: string): void;
export function openPostgres(options: { readonly name: string; readonly lasting: boolean }): Promise<{
  readonly url: (database: string) => string;
  kill(signal: 'SIGKILL' | 'SIGTERM' | 'SIGINT' | 'SIGQUIT'): void;
  stop(): Promise<void>;
}>;
