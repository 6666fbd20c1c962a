import type { MessagePort } from 'node:worker_threads';
import { Catalog, compileRule, ownDefinition, TableIndex, WorkspaceError, type Rule } from '@vast-knot/core';
import { Asking, type Defined } from './door';
import type { Ready } from './ready';
import { tasks, type TaskKind, type Tasks } from './tasks';

/** A task on its way to a thread. */
export interface Sent<K extends TaskKind = TaskKind> {
  readonly kind: K;
  readonly asked: Tasks[K]['asked'];
  /** Which definitions it is computed with; a thread that has others asks for these. */
  readonly stamp: string;
  readonly port: MessagePort;
}

let known: { readonly stamp: string; readonly ready: Ready } | undefined;

/** Does a task in this thread. What a system did not give is answered as a problem, since errors lose their kind on the way. */
export default async function compute<K extends TaskKind>({ kind, asked, stamp, port }: Sent<K>) {
  const asking = new Asking(port);
  asking.begin();
  try {
    if (known?.stamp !== stamp) known = { stamp, ready: readyFrom(await asking.ask('defined', null)) };
    return { answer: await tasks[kind](asked, known.ready, asking) };
  } catch (thrown) {
    if (thrown instanceof WorkspaceError) return { problem: thrown.problem };
    throw thrown;
  } finally {
    port.close();
  }
}

/** Returns what is defined, ready to compute with. */
function readyFrom({ systems, tables, endpoints, folders, rules }: Defined): Ready {
  const surroundings = {
    catalog: new Catalog([...systems.filter(({ key }) => key !== ownDefinition.key), ownDefinition]),
    tables: new Map(tables.map((table) => [table.name, new TableIndex(table)])),
    endpoints: new Set(endpoints),
    folders: new Set(folders),
  };
  const byId = new Map(rules.map((rule): [string, Rule] => [rule.id, rule]));
  const compiled = rules.flatMap((rule) => {
    const result = compileRule(rule, { ...surroundings, rules: byId });
    return result.ok ? [result.compiled] : [];
  });
  return { ...surroundings, rules: compiled };
}
