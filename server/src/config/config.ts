import Joi from 'joi';

/** How one server process is set up, read from the environment once. */
export interface Config {
  readonly databaseUrl: string;
  readonly port: number;
  /** Which proxies are believed when they say where a request came from: how many stand before us, or their addresses, or `loopback`. */
  readonly trustProxy?: string | number;
  /** The address under which browsers and systems reach this server. */
  readonly publicUrl: string;
  readonly role: 'all' | 'api' | 'worker';
  readonly sessionSecret: string;
  /** 32 bytes, base64: seals the secrets of connections. */
  readonly sealKey: string;
  /** Keys from before, with which secrets may still be sealed. */
  readonly formerSealKeys: readonly string[];
  readonly migrations: string;
  readonly webFolder: string;
  /** Loads the demo from this folder when there are no systems yet. */
  readonly demoFolder?: string;
  /** JSON: name to `{ password, role }`; people who are made at the start where they are not there yet. */
  readonly users: Readonly<Record<string, { password: string; role: string }>>;
  /** JSON: name to the path of a folder that is watched for files. */
  readonly folders: Readonly<Record<string, string>>;
  /** JSON: name to the path of a folder that rules may write files into. */
  readonly outFolders: Readonly<Record<string, string>>;
  /** JSON: system key to `{ baseUrl, token, webhookSecret }`, which differ by environment; an inlet has the last alone. */
  readonly connections: Readonly<
    Record<string, { baseUrl?: string; user?: string; token?: string; webhookSecret?: string }>
  >;
  /** JSON: endpoint key to `{ name, url, secret }`; made or changed at the start. */
  readonly endpoints: Readonly<Record<string, { name: string; url: string; secret: string }>>;
  /** `host:port` of private addresses that connectors may still reach. */
  readonly allowedOutbound: readonly string[];
  readonly concurrency: number;
  readonly bodyLimit: number;
  readonly mostAttempts: number;
  /** How many requests of one person are answered in a minute: of all, and of those that cost much; and answers of forms of one address. */
  readonly mostInMinute: { readonly all: number; readonly costly: number; readonly answers: number };
  /** Change events that one system may send in a second; those beyond are asked to come later. */
  readonly intakePerSecond: number;
  /** For how many days runs are kept; those that failed, longer. */
  readonly keeping: { readonly days: number; readonly failedDays: number };
  readonly logLevel: string;
  /** How mail is sent to people; absent where no mail server is set up. */
  readonly mail?: { readonly url: string; readonly from: string };
  /** With which token `/metrics` is read; absent where there is none. */
  readonly metricsToken?: string;
  /** What the computation of one thing that a person asks for may take, and how many are computed at once. */
  readonly computeLimits: { readonly threads: number; readonly seconds: number; readonly megabytes: number };
  /** What the thread of the worker may take: memory, and how long it may answer nothing. */
  readonly workerLimits: { readonly silentMs: number; readonly megabytes: number };
}

const json = (schema: Joi.Schema) =>
  Joi.string()
    .custom((text: string, helpers) => {
      try {
        return Joi.attempt(JSON.parse(text), schema) as unknown;
      } catch (thrown) {
        return helpers.message({
          custom: `{{#label}} is wrong: ${thrown instanceof Error ? thrown.message : ''}`,
        });
      }
    })
    .default({});

interface Settings {
  readonly DATABASE_URL: string;
  readonly PORT: number;
  readonly PUBLIC_URL?: string;
  readonly ROLE: Config['role'];
  readonly SESSION_SECRET: string;
  readonly SEAL_KEY: string;
  readonly SEAL_KEYS_FORMER: string;
  readonly MIGRATIONS: string;
  readonly WEB_FOLDER: string;
  readonly DEMO_FOLDER?: string;
  readonly USERS: Config['users'];
  readonly CONNECTIONS: Config['connections'];
  readonly ENDPOINTS: Config['endpoints'];
  readonly ALLOWED_OUTBOUND: string;
  readonly CONCURRENCY: number;
  readonly BODY_LIMIT: number;
  readonly MOST_ATTEMPTS: number;
  readonly INTAKE_PER_SECOND: number;
  readonly FOLDERS: Config['folders'];
  readonly OUT_FOLDERS: Config['outFolders'];
  readonly ANSWERS_PER_MINUTE: number;
  readonly REQUESTS_PER_MINUTE: number;
  readonly COSTLY_PER_MINUTE: number;
  readonly COMPUTE_THREADS: number;
  readonly COMPUTE_SECONDS: number;
  readonly COMPUTE_MEGABYTES: number;
  readonly WORKER_SILENT_SECONDS: number;
  readonly WORKER_MEGABYTES: number;
  readonly KEEP_DAYS: number;
  readonly KEEP_FAILED_DAYS: number;
  readonly LOG_LEVEL: string;
  readonly SMTP_URL?: string;
  readonly MAIL_FROM: string;
  readonly METRICS_TOKEN?: string;
  readonly TRUST_PROXY?: string;
}

const folderPaths = Joi.object().pattern(
  Joi.string().max(80),
  Joi.string().pattern(/^\//, 'a path from the root').max(1000),
);

const schema: Joi.ObjectSchema<Settings> = Joi.object<Settings>({
  DATABASE_URL: Joi.string()
    .uri({ scheme: ['postgres', 'postgresql'] })
    .required(),
  PORT: Joi.number().port().default(4600),
  PUBLIC_URL: Joi.string().uri({ scheme: ['http', 'https'] }),
  ROLE: Joi.valid('all', 'api', 'worker').default('all'),
  SESSION_SECRET: Joi.string().min(32).required(),
  SEAL_KEY: Joi.string().base64().required(),
  SEAL_KEYS_FORMER: Joi.string().allow('').default(''),
  MIGRATIONS: Joi.string().default('server/migrations'),
  WEB_FOLDER: Joi.string().default('web/dist'),
  DEMO_FOLDER: Joi.string(),
  USERS: json(
    Joi.object().pattern(
      Joi.string(),
      Joi.object({
        password: Joi.string().min(8).max(200).required(),
        // Earlier versions called a viewer a reader.
        role: Joi.string()
          .max(40)
          .required()
          .custom((role: string) => (role === 'reader' ? 'viewer' : role)),
      }),
    ),
  ),
  CONNECTIONS: json(
    Joi.object().pattern(
      Joi.string(),
      Joi.object({
        baseUrl: Joi.string().uri(),
        user: Joi.string(),
        token: Joi.string(),
        webhookSecret: Joi.string(),
      }).and('baseUrl', 'token'),
    ),
  ),
  ENDPOINTS: json(
    Joi.object().pattern(
      Joi.string(),
      Joi.object({
        name: Joi.string().max(80).required(),
        url: Joi.string().uri().required(),
        secret: Joi.string().required(),
      }),
    ),
  ),
  ALLOWED_OUTBOUND: Joi.string().allow('').default(''),
  CONCURRENCY: Joi.number().integer().min(1).max(256).default(32),
  BODY_LIMIT: Joi.number()
    .integer()
    .min(1024)
    .default(1024 * 1024),
  MOST_ATTEMPTS: Joi.number().integer().min(1).default(40),
  INTAKE_PER_SECOND: Joi.number().integer().min(1).default(2000),
  FOLDERS: json(folderPaths),
  OUT_FOLDERS: json(folderPaths),
  ANSWERS_PER_MINUTE: Joi.number().integer().min(1).default(20),
  REQUESTS_PER_MINUTE: Joi.number().integer().min(1).default(6000),
  COSTLY_PER_MINUTE: Joi.number().integer().min(1).default(600),
  COMPUTE_THREADS: Joi.number().integer().min(1).max(64).default(2),
  COMPUTE_SECONDS: Joi.number().integer().min(1).default(20),
  COMPUTE_MEGABYTES: Joi.number().integer().min(64).default(512),
  WORKER_SILENT_SECONDS: Joi.number().integer().min(2).default(60),
  WORKER_MEGABYTES: Joi.number().integer().min(128).default(2048),
  KEEP_DAYS: Joi.number().integer().min(1).default(90),
  KEEP_FAILED_DAYS: Joi.number().integer().min(1).default(365),
  LOG_LEVEL: Joi.string().default('info'),
  SMTP_URL: Joi.string().uri({ scheme: ['smtp', 'smtps'] }),
  MAIL_FROM: Joi.string().default('Vast Knot <vast-knot@localhost>'),
  METRICS_TOKEN: Joi.string().min(16),
  TRUST_PROXY: Joi.string().max(500),
}).unknown();

/** @throws Error with one sentence when a setting is missing or wrong. */
export function readConfig(environment: NodeJS.ProcessEnv): Config {
  const result = schema.validate(environment);
  if (result.error) throw new Error(`The settings are wrong: ${result.error.message}.`);
  const { value } = result;
  return {
    databaseUrl: value.DATABASE_URL,
    port: value.PORT,
    publicUrl: value.PUBLIC_URL ?? `http://127.0.0.1:${value.PORT}`,
    role: value.ROLE,
    sessionSecret: value.SESSION_SECRET,
    sealKey: value.SEAL_KEY,
    formerSealKeys: value.SEAL_KEYS_FORMER.split(',').filter(Boolean),
    migrations: value.MIGRATIONS,
    webFolder: value.WEB_FOLDER,
    ...(value.DEMO_FOLDER !== undefined && { demoFolder: value.DEMO_FOLDER }),
    ...(value.TRUST_PROXY !== undefined && { trustProxy: hopsOrNames(value.TRUST_PROXY) }),
    users: value.USERS,
    folders: value.FOLDERS,
    outFolders: value.OUT_FOLDERS,
    connections: value.CONNECTIONS,
    endpoints: value.ENDPOINTS,
    allowedOutbound: value.ALLOWED_OUTBOUND.split(',').filter(Boolean),
    concurrency: value.CONCURRENCY,
    bodyLimit: value.BODY_LIMIT,
    mostAttempts: value.MOST_ATTEMPTS,
    mostInMinute: {
      all: value.REQUESTS_PER_MINUTE,
      costly: value.COSTLY_PER_MINUTE,
      answers: value.ANSWERS_PER_MINUTE,
    },
    intakePerSecond: value.INTAKE_PER_SECOND,
    keeping: { days: value.KEEP_DAYS, failedDays: value.KEEP_FAILED_DAYS },
    logLevel: value.LOG_LEVEL,
    ...(value.SMTP_URL !== undefined && { mail: { url: value.SMTP_URL, from: value.MAIL_FROM } }),
    ...(value.METRICS_TOKEN !== undefined && { metricsToken: value.METRICS_TOKEN }),
    computeLimits: {
      threads: value.COMPUTE_THREADS,
      seconds: value.COMPUTE_SECONDS,
      megabytes: value.COMPUTE_MEGABYTES,
    },
    workerLimits: { silentMs: value.WORKER_SILENT_SECONDS * 1000, megabytes: value.WORKER_MEGABYTES },
  };
}

/** Returns how many proxies a setting says stand before us, or the addresses that it names. */
function hopsOrNames(text: string): string | number {
  return /^\d+$/.test(text) ? Number(text) : text;
}
