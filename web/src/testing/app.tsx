import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ReactElement } from 'react';
import { BrowserRouter } from 'react-router';
import { builtInRoles, type Right, type RuleView, type Sample, type SignedIn } from '@vast-knot/core';
import { App } from '../App';
import { RightsProvider } from '../frame/useMay';
import { theme } from '../look/theme';
import { known } from '../work/testWorld';

/** One question to the server, as it was asked. */
export interface Asked {
  readonly method: string;
  readonly path: string;
  readonly body: unknown;
  readonly ifMatch: string | null;
}

type Answers = Readonly<Record<string, unknown>>;

/** A server of the test's own: answers by `METHOD path`, and keeps what was asked. */
export class FakeServer {
  readonly asked: Asked[] = [];
  private readonly answers = new Map<string, unknown>();

  constructor(answers: Answers = {}) {
    this.answer(answers);
    globalThis.fetch = (input, init) => this.take(String(input), init ?? {});
    Object.assign(globalThis, { EventSource: SilentSource });
  }

  /** Answers from now on; a function is given what was asked, and a Response is sent as it is. */
  answer(answers: Answers): void {
    for (const [key, value] of Object.entries(answers)) this.answers.set(key, value);
  }

  /** Returns what was asked of an address, the latest last. */
  of(method: string, path: string): readonly Asked[] {
    return this.asked.filter((each) => each.method === method && each.path === path);
  }

  private async take(url: string, { method = 'GET', body, headers }: RequestInit): Promise<Response> {
    const path = url.replace(/^\/api/, '').split('?')[0] ?? '';
    const asked: Asked = {
      method,
      path,
      body: typeof body === 'string' && body.startsWith('{') ? (JSON.parse(body) as unknown) : body,
      ifMatch: new Headers(headers).get('if-match'),
    };
    this.asked.push(asked);
    const found = this.answers.get(`${method} ${path}`);
    const answer: unknown =
      typeof found === 'function' ? await (found as (asked: Asked) => unknown)(asked) : found;
    if (answer instanceof FakeResponse) return answer.response();
    if (answer !== undefined) return new FakeResponse(200, answer).response();
    const detail = `There is nothing at ${path}.`;
    return new FakeResponse(404, { status: 404, title: 'Not found', detail }).response();
  }
}

/** An answer with another status, or with a body that is no JSON. */
export class FakeResponse {
  constructor(
    readonly status: number,
    readonly body: unknown,
  ) {}

  response(): Response {
    const { status, body } = this;
    const text = typeof body === 'string' ? body : JSON.stringify(body);
    const ok = status >= 200 && status < 300;
    return { status, ok, statusText: '', text: () => Promise.resolve(text) } as Response;
  }
}

/** Hears nothing. */
class SilentSource {
  close(): void {
    // There is nothing to be closed.
  }
}

/** Returns what each environment's role of this key may. */
export function rightsOf(role: string): readonly Right[] {
  return builtInRoles.find(({ key }) => key === role)?.rights ?? [];
}

/** Returns Mara, signed in with a role. */
export function signedInAs(role: string): SignedIn {
  return {
    name: 'Mara',
    fullName: 'Mara Skerry',
    mail: '',
    role: { key: role, name: builtInRoles.find(({ key }) => key === role)?.name ?? role },
    rights: rightsOf(role),
    habits: {},
    secondFactor: false,
    mustHaveSecondFactor: false,
    environment: { name: '', colour: 'plain', secondPerson: false, revision: 1 },
  };
}

/** Returns what the server of the small world answers: two systems, a table, one rule and one sample. */
export function worldAnswers(rule: RuleView, samples: readonly Sample[], role = 'administrator'): Answers {
  return {
    'GET /session': signedInAs(role),
    'GET /systems': known.systems.map((system) => ({ ...system, baseUrl: '', reached: 'connection' })),
    'GET /tables': known.tables.map(({ rows, ...table }) => ({
      ...table,
      rowCount: rows.length,
      revision: 1,
      usedBy: [],
    })),
    ...Object.fromEntries(
      known.tables.map((table) => [
        `GET /tables/${encodeURIComponent(table.name)}`,
        {
          ...table,
          rowIds: table.rows.map((_row, at) => at + 1),
          rowCount: table.rows.length,
          revision: 1,
          usedBy: [],
        },
      ]),
    ),
    'GET /rules': [rule],
    [`GET /rules/${rule.id}`]: rule,
    'GET /rules/versions': [],
    'GET /rules/findings': [],
    'GET /rules/deeds': [],
    'GET /rules/removed': [],
    'GET /samples/whole': samples,
    'GET /samples': samples.map(({ id, name, note, tags = [], event, records }) => ({
      id,
      name,
      note,
      tags,
      ref: event.ref,
      kind: event.kind,
      changed: event.changed,
      records: records.length,
    })),
    ...Object.fromEntries(samples.map((sample) => [`GET /samples/${sample.id}`, sample])),
    'GET /endpoints': [],
  };
}

/** Returns the rule as the server gives it. */
export function viewOf({
  id,
  version: _version,
  ...draft
}: RuleView['draft'] & { id: string; version: number }): RuleView {
  return {
    id,
    draft,
    revision: 1,
    published: null,
    folder: '',
    changedAt: '2026-03-09T10:00:00Z',
    changedBy: null,
    paused: null,
    asked: null,
  };
}

function wrapped(element: ReactElement, at: string) {
  window.history.replaceState(null, '', at);
  const client = new QueryClient({ defaultOptions: { queries: { retry: false, staleTime: 10_000 } } });
  return render(
    <MantineProvider theme={theme} env="test">
      <Notifications />
      <QueryClientProvider client={client}>
        <BrowserRouter>{element}</BrowserRouter>
      </QueryClientProvider>
    </MantineProvider>,
  );
}

/** Opens the whole application at an address. */
export function openApp(at: string) {
  return { ...wrapped(<App />, at), user: userEvent.setup() };
}

/** Shows one part of the interface to somebody who may do everything, or what is said. */
export function show(element: ReactElement, rights: readonly Right[] = rightsOf('administrator')) {
  return {
    ...wrapped(<RightsProvider value={new Set(rights)}>{element}</RightsProvider>, '/'),
    user: userEvent.setup(),
  };
}
