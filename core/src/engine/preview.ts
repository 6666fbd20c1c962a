import type { Env } from '../formula/scope';
import { eventKinds, type ChangeEvent } from '../model/event';
import type { StoredRecord } from '../model/record';
import type { Catalog } from '../model/system';
import { OverlayWorkspace } from '../workspace/overlay';
import type { Workspace } from '../workspace/workspace';
import { isCompiledWrite, type CompiledRule, type CompiledWrite } from './compiled';
import { withLinked } from './follow';
import type { LineReport, RuleReport } from './report';
import { resolveKeys } from './resolveKeys';
import { environment } from './run';
import { runRule } from './runRule';
import { runLines } from './lines';

/** A record that an action would write to, with what its lines see. */
export interface Reached {
  readonly env: Env;
  readonly target: StoredRecord;
}

/** The records that each action of a rule reaches for an event, by the place of the action. */
export interface Reach {
  readonly report: RuleReport;
  readonly targets: ReadonlyMap<number, readonly Reached[]>;
}

/**
 * Takes an event through the finds of a rule, whether or not its trigger and guard would let it pass: what lines would
 * write can be shown for any record. No line is computed and nothing is written.
 */
export async function reachTargets(
  compiled: CompiledRule,
  event: ChangeEvent,
  workspace: Workspace,
  catalog: Catalog,
): Promise<Reach> {
  const { rule } = compiled;
  const open: CompiledRule = {
    ...compiled,
    rule: { ...rule, trigger: { ...rule.trigger, kinds: eventKinds, watched: [] } },
    guard: undefined,
    actions: compiled.actions
      .filter(isCompiledWrite)
      // What a later action sees of a created record comes from its lines.
      .map((action) => (action.kind === 'write' ? { ...action, lines: [] } : action)),
  };
  const targets = new Map<number, readonly Reached[]>();
  let made = 0;
  const { report } = await runRule(open, event, environment(event), {
    workspace: new OverlayWorkspace(catalog, workspace),
    depth: 0,
    catalog,
    freshId: () => `new-${++made}`,
    observe: (action, reached) => targets.set(action.at, reached),
  });
  return { report, targets };
}

/** Returns what the lines of an action give for records that it reaches, with the environments in which they did. */
export async function previewLines(
  { lines }: Pick<CompiledWrite, 'lines'>,
  reached: readonly Reached[],
  workspace: Workspace,
): Promise<readonly { readonly env: Env; readonly reports: readonly LineReport[] }[]> {
  const envs = await withLinked(
    lines.map(({ compiled }) => compiled),
    reached.map(({ env }) => env),
    workspace,
  );
  const resolve = await resolveKeys(lines, envs, workspace);
  return reached.map(({ target, env: bare }, at) => {
    const env = envs[at] ?? bare;
    return { env, reports: runLines(lines, target.record, { env, resolve }).reports };
  });
}
