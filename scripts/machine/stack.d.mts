/** A process that is started again when it ends. */
export interface RunningProcess {
  readonly pid: number;
  kill(signal: 'SIGKILL' | 'SIGTERM'): void;
}

/** The types of `stack.mjs`, for tests and pictures that are written in TypeScript. */
export interface Stack {
  readonly url: string;
  readonly env: Readonly<Record<string, string>>;
  readonly connections: Readonly<
    Record<string, { readonly baseUrl: string; readonly token: string; readonly webhookSecret: string }>
  >;
  readonly user: string;
  readonly password: string;
  readonly server: RunningProcess;
  readonly workers: readonly RunningProcess[];
  readonly postgres: { kill(signal: 'SIGKILL' | 'SIGTERM' | 'SIGINT' | 'SIGQUIT'): void };
  readonly database: (key: string) => string;
  stop(): Promise<void>;
  restart(): Promise<void>;
}

export function startStack(options: {
  readonly name: string;
  readonly port?: number;
  readonly lasting?: boolean;
  readonly workers?: number;
  readonly reach?: readonly string[];
  readonly extra?: Readonly<Record<string, string>>;
}): Promise<Stack>;
