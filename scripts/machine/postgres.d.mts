/** The types of `postgres.mjs`. */
export function removeData(name: string): void;
export function openPostgres(options: { readonly name: string; readonly lasting: boolean }): Promise<{
  readonly url: (database: string) => string;
  stop(): Promise<void>;
}>;
