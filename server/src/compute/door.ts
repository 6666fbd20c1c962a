import {
  WorkspaceError,
  type Problem,
  type RecordRef,
  type Rule,
  type Search,
  type StoredRecord,
  type System,
  type LookupTable,
  type Workspace,
} from '@vast-knot/core';
import type { MessagePort } from 'node:worker_threads';
import type { Registry } from '../registry/registry';
import { ConnectedWorkspace } from '../registry/connectedWorkspace';

/** Gives the records of a type page by page, or undefined where a system has none that could be listed. */
export type Pages = (request: PageAsked) => Promise<PageGiven | undefined>;
interface PageAsked {
  readonly system: string;
  readonly type: string;
  readonly cursor: string | undefined;
}
interface PageGiven {
  readonly records: readonly StoredRecord[];
  readonly next: string | null;
}

/** What is defined, as it goes from thread to thread. */
export interface Defined {
  readonly systems: readonly System[];
  readonly tables: readonly LookupTable[];
  readonly endpoints: readonly string[];
  readonly folders: readonly string[];
  readonly rules: readonly Rule[];
}

/** What a thread asks of the one that has the connections. */
interface Questions {
  readonly get: { readonly asked: RecordRef; readonly answer: StoredRecord | undefined };
  readonly find: { readonly asked: Search; readonly answer: readonly StoredRecord[] };
  readonly page: { readonly asked: PageAsked; readonly answer: PageGiven | undefined };
  readonly defined: { readonly asked: null; readonly answer: Defined };
}
type Question = {
  [K in keyof Questions]: { readonly about: K; readonly asked: Questions[K]['asked'] };
}[keyof Questions];
/** What comes through the port from a thread: that it begins, or a question. */
type Sent = { readonly about: 'begin' } | (Question & { readonly id: number });
type Answer =
  | { readonly id: number; readonly value: unknown }
  | { readonly id: number; readonly problem: Problem }
  | { readonly id: number; readonly failed: string };

const pageSize = 500;

/** Returns the door to the systems of a registry, for what is computed in this process. */
export function openDoor(registry: Registry): { readonly workspace: Workspace; readonly pages: Pages } {
  const pages: Pages = async ({ system, type, cursor }) => {
    const store = registry.connectors.get(system)?.records;
    // Rows of files and answers of forms come and go; there are no records of them to look through.
    return store?.page({ type, limit: pageSize, cursor });
  };
  return { workspace: new ConnectedWorkspace(registry), pages };
}

/** Answers what a thread asks through a port, until the port is closed. `busy` is told when the thread computes, and when it waits for us. */
export function answer(port: MessagePort, registry: Registry, busy: (computes: boolean) => void): void {
  const { workspace, pages } = openDoor(registry);
  const answerOne = (question: Question): unknown => {
    switch (question.about) {
      case 'get':
        return workspace.get(question.asked);
      case 'find':
        return workspace.find(question.asked);
      case 'page':
        return pages(question.asked);
      case 'defined':
        return definedIn(registry);
    }
  };
  let open = 0;
  port.on('message', (sent: Sent) => {
    if (sent.about === 'begin') {
      busy(true);
      return;
    }
    const { id } = sent;
    open++;
    busy(false);
    void Promise.resolve()
      .then(() => answerOne(sent))
      .then((value) => port.postMessage({ id, value } satisfies Answer))
      // What cannot be told is told as a failure, too.
      .catch((thrown: unknown) => port.postMessage(toldOf(id, thrown)))
      .finally(() => {
        if (--open === 0) busy(true);
      });
  });
}

function toldOf(id: number, thrown: unknown): Answer {
  if (thrown instanceof WorkspaceError) return { id, problem: thrown.problem };
  return { id, failed: thrown instanceof Error ? thrown.message : String(thrown) };
}

function definedIn({ catalog, tables, endpoints, folders, rules }: Registry): Defined {
  return {
    systems: catalog.systems,
    tables: [...tables.values()].map(({ table }) => table),
    endpoints: [...endpoints.keys()],
    folders: [...folders],
    rules: rules.map(({ rule }) => rule),
  };
}

/** The other side of the port: asks, and gives what is answered. */
export class Asking {
  private readonly open = new Map<number, { done: (value: unknown) => void; fail: (error: Error) => void }>();
  private last = 0;

  constructor(private readonly port: MessagePort) {
    port.on('message', (answered: Answer) => {
      const waiting = this.open.get(answered.id);
      this.open.delete(answered.id);
      if (!waiting) return;
      if ('value' in answered) waiting.done(answered.value);
      else if ('problem' in answered) waiting.fail(new WorkspaceError(answered.problem));
      else waiting.fail(new Error(answered.failed));
    });
  }

  /** Says that the thread begins to compute. */
  begin(): void {
    this.port.postMessage({ about: 'begin' } satisfies Sent);
  }

  ask<K extends keyof Questions>(about: K, asked: Questions[K]['asked']): Promise<Questions[K]['answer']> {
    const id = ++this.last;
    return new Promise((done, fail) => {
      this.open.set(id, { done: (value) => done(value as Questions[K]['answer']), fail });
      this.port.postMessage({ id, about, asked });
    });
  }

  /** The systems, as a task sees them from its thread. Nothing can be written from there. */
  get workspace(): Workspace {
    return {
      get: (ref) => this.ask('get', ref),
      find: (search) => this.ask('find', search),
      apply: () => Promise.reject(new Error('a task writes nothing')),
    };
  }

  get pages(): Pages {
    return (asked) => this.ask('page', asked);
  }
}
