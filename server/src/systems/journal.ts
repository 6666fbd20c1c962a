import {
  isJsonObject,
  parseJson,
  printJson,
  type ExchangeView,
  type Field,
  type Json,
  type System,
} from '@vast-knot/core';
import { hidden, withoutSecret, type Exchanged, type WatchedExchange } from '../connector/exchanged';
import { isDatabaseAway, type Pool, type Runner } from '../db/pool';
import { storable } from '../db/storable';

/** What is kept of one system: what we asked of it, messages of its that were taken, and messages in its name that were not. */
const mostKept = { asked: 100, taken: 5, refused: 5 } as const;
type What = keyof typeof mostKept;
/** For how long. */
const keptHours = 24;
/** So often they are written down. */
const flushMs = 2000;
/** Of longer bodies only their length is kept. */
const longestBody = 32 * 1024;

/**
 * The journal of what went over the wire: the newest exchanges of each system. They are collected in the process and written down every
 * other second, so that the journal costs the exchanges nothing; what is more than is kept is never written.
 */
export class Journal {
  private readonly open = new Map<
    string,
    { readonly system: System; readonly what: What; readonly exchanges: WatchedExchange[] }
  >();
  private readonly timer: NodeJS.Timeout;
  private writing: Promise<void> = Promise.resolve();

  constructor(
    private readonly pool: Pool,
    private readonly failed: (error: unknown) => void,
  ) {
    this.timer = setInterval(() => this.flush(), flushMs);
    this.timer.unref();
  }

  /** Takes note of an exchange with a system. What it costs to leave out what is not to be seen, only those cost that are written down. */
  note(system: System, { exchanged, secret }: WatchedExchange, what: What = 'asked'): void {
    const key = `${what} ${system.key}`;
    const exchanges = this.open.get(key)?.exchanges ?? [];
    exchanges.push({ exchanged: withoutLongBodies(exchanged), secret });
    if (exchanges.length > mostKept[what]) exchanges.shift();
    this.open.set(key, { system, what, exchanges });
  }

  async stop(): Promise<void> {
    clearInterval(this.timer);
    this.flush();
    await this.writing;
  }

  private flush(): void {
    this.writing = this.writing.then(async () => {
      for (const [key, { system, what, exchanges }] of [...this.open]) {
        this.open.delete(key);
        try {
          const sensitive = sensitiveNames(system);
          const shown = exchanges.map((watched) => masked(withoutSecret(watched), sensitive));
          await keepExchanges(this.pool, system.key, what, shown);
        } catch (thrown) {
          // A journal is no reason to hold anything up; what cannot be written down is lost.
          if (!isDatabaseAway(thrown)) this.failed(thrown);
        }
      }
    });
  }
}

async function keepExchanges(
  runner: Runner,
  system: string,
  what: What,
  exchanges: readonly Exchanged[],
): Promise<void> {
  await runner.query(
    `INSERT INTO exchanges (system, what, exchange)
     SELECT key, $3, exchange FROM systems, jsonb_array_elements($2::jsonb) WITH ORDINALITY AS one (exchange, at) WHERE key = $1
     ORDER BY at FOR KEY SHARE OF systems`,
    [system, JSON.stringify(exchanges.map(keepable)), what],
  );
  await runner.query(
    `DELETE FROM exchanges WHERE system = $1 AND what = $2
       AND id <= (SELECT id FROM exchanges WHERE system = $1 AND what = $2 ORDER BY id DESC OFFSET $3 LIMIT 1)`,
    [system, what, mostKept[what]],
  );
}

/** Removes what was kept for a day. */
export async function clearExchanges(runner: Runner): Promise<void> {
  await runner.query(`DELETE FROM exchanges WHERE kept_at < now() - interval '${keptHours} hours'`);
}

/** Returns an exchange as the database can keep it. */
function keepable(exchanged: Exchanged): Exchanged {
  return {
    ...exchanged,
    url: storable(exchanged.url),
    requestBody: storable(exchanged.requestBody),
    answerBody: storable(exchanged.answerBody),
    problem: storable(exchanged.problem),
  };
}

/** Returns the newest exchanges with a system, the newest first. */
export function readExchanges(runner: Runner, system: string): Promise<readonly ExchangeView[]> {
  return readNewest(runner, system, ['asked']);
}

/** Returns the newest messages that came from a system, or in its name, as they came, the newest first; each with our answer. */
export function readMessages(runner: Runner, system: string): Promise<readonly ExchangeView[]> {
  return readNewest(runner, system, ['taken', 'refused']);
}

async function readNewest(
  runner: Runner,
  system: string,
  what: readonly What[],
): Promise<readonly ExchangeView[]> {
  const { rows } = await runner.query<{ exchange: Exchanged }>(
    `SELECT exchange FROM exchanges WHERE system = $1 AND what = ANY ($2)
       AND kept_at > now() - interval '${keptHours} hours' ORDER BY id DESC LIMIT 200`,
    [system, what],
  );
  return rows.map(({ exchange: { status, ...exchange } }) => ({ ...exchange, status: status ?? null }));
}

const names = new WeakMap<System, ReadonlySet<string>>();

/** Returns the names of fields whose values are not to be seen. */
function sensitiveNames(system: System): ReadonlySet<string> {
  const known = names.get(system);
  if (known) return known;
  const found = new Set<string>();
  const look = (fields: readonly Field[]) => {
    for (const field of fields) {
      if (field.sensitivity !== undefined) found.add(field.name);
      look(field.fields ?? []);
    }
  };
  for (const { fields } of system.recordTypes) look(fields);
  names.set(system, found);
  return found;
}

/** What stands in the place of a long body. */
const notKept = /^\([\d,]+ characters, not kept\)$/;

function withoutLongBodies(exchanged: Exchanged): Exchanged {
  const body = (text: string) =>
    text.length > longestBody ? `(${text.length.toLocaleString('en')} characters, not kept)` : text;
  return { ...exchanged, requestBody: body(exchanged.requestBody), answerBody: body(exchanged.answerBody) };
}

/** Returns an exchange without the values of sensitive fields, wherever they stand in it. */
function masked(exchanged: Exchanged, sensitive: ReadonlySet<string>): Exchanged {
  if (sensitive.size === 0) return exchanged;
  return {
    ...exchanged,
    url: maskedUrl(exchanged.url, sensitive),
    requestBody: maskedText(exchanged.requestBody, sensitive),
    answerBody: maskedText(exchanged.answerBody, sensitive),
  };
}

function maskedText(text: string, sensitive: ReadonlySet<string>): string {
  if (text === '' || notKept.test(text)) return text;
  try {
    if (!mayName(text, sensitive)) {
      JSON.parse(text);
      return text;
    }
    return printJson(maskedJson(parseJson(text), sensitive));
  } catch {
    // What is no JSON has no fields; it may hold values all the same.
    return `(${text.length} characters that are no JSON, not kept)`;
  }
}

/** Returns whether a text may hold one of the names, as it is or written with escapes; where not, it need not be taken apart. */
function mayName(text: string, names: ReadonlySet<string>): boolean {
  return text.includes('\\') || [...names].some((name) => text.includes(name));
}

function maskedJson(json: Json, sensitive: ReadonlySet<string>): Json {
  if (Array.isArray(json)) return json.map((each) => maskedJson(each, sensitive));
  if (!isJsonObject(json)) return json;
  return Object.fromEntries(
    Object.entries(json).map(([name, value]) => [
      name,
      value !== null && value !== undefined && sensitive.has(name)
        ? hidden
        : maskedJson(value ?? null, sensitive),
    ]),
  );
}

/** A filter by a sensitive field names its value in the address. */
function maskedUrl(url: string, sensitive: ReadonlySet<string>): string {
  if (!url.includes('?')) return url;
  const [way = '', query = ''] = url.split('?');
  const parts = query.split('&').map((part) => {
    const plain = decodeURIComponent(part.replace(/%(?![0-9a-f]{2})/gi, '%25'));
    return [...sensitive].some((name) =>
      new RegExp(`(^|[^\\p{L}\\p{N}_])${escapeText(name)}($|[^\\p{L}\\p{N}_])`, 'u').test(plain),
    )
      ? `${part.split('=')[0] ?? ''}=${hidden}`
      : part;
  });
  return `${way}?${parts.join('&')}`;
}

function escapeText(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
}
