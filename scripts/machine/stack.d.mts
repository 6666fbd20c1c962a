/** The types of `stack.mjs`, for tests and pictures that are written in TypeScript. */
export interface Stack {
  readonly url: string;
  readonly env: Readonly<Record<string, string>>;
  readonly connections: Readonly<
    Record<string, { readonly baseUrl: string; readonly token: string; readonly webhookSecret: string }>
  >;
  readonly user: string;
  readonly password: string;
  readonly server: { readonly pid: number };
  readonly database: (key: string) => string;
  stop(): Promise<void>;
  restart(): Promise<void>;
}

export function startStack(options: {
  readonly name: string;
  readonly port?: number;
  readonly lasting?: boolean;
  readonly extra?: Readonly<Record<string, string>>;
}): Promise<Stack>;
