import type { EventKind } from '../model/event';
import type { RecordRef } from '../model/record';
import type { CompiledRule } from './compiled';

/**
 * The rules that start from records of one type, in their order. Of hundreds most watch other fields than those that changed; which may
 * start is looked up by field instead of asking each.
 */
export class RulesOfType {
  /** Those that any update may start. */
  private readonly unwatched: CompiledRule[] = [];
  /** By watched field. */
  private readonly watching = new Map<string, CompiledRule[]>();
  /** By everything that a watched field lies in. */
  private readonly watchingWithin = new Map<string, CompiledRule[]>();
  /** By kind of event, other than updates. */
  private readonly byKind = new Map<EventKind, CompiledRule[]>();

  constructor(readonly rules: readonly CompiledRule[]) {
    for (const rule of rules) {
      const { kinds, watched } = rule.rule.trigger;
      for (const kind of kinds) if (kind !== 'updated') add(this.byKind, kind, rule);
      if (!kinds.includes('updated')) continue;
      if (watched.length === 0) this.unwatched.push(rule);
      for (const path of watched) {
        add(this.watching, path, rule);
        for (const outer of outerOf(path)) add(this.watchingWithin, outer, rule);
      }
    }
  }

  /**
   * Returns the rules that an event may start, as far as its kind and the changed fields say. What was written to the record since may
   * make an update of any event.
   */
  startedBy(kind: EventKind, changed: readonly string[]): ReadonlySet<CompiledRule> {
    const started = new Set<CompiledRule>(this.unwatched);
    const addAll = (rules: readonly CompiledRule[] = []) => {
      for (const rule of rules) started.add(rule);
    };
    addAll(this.byKind.get(kind));
    for (const path of changed) {
      // A field that is watched, one inside of it, or one that holds it.
      addAll(this.watching.get(path));
      addAll(this.watchingWithin.get(path));
      for (const outer of outerOf(path)) addAll(this.watching.get(outer));
    }
    return started;
  }
}

/** Returns what a path lies in: of `a.b.c` these are `a` and `a.b`. */
function outerOf(path: string): readonly string[] {
  const outer: string[] = [];
  for (let at = path.indexOf('.'); at >= 0; at = path.indexOf('.', at + 1)) outer.push(path.slice(0, at));
  return outer;
}

function add<K>(all: Map<K, CompiledRule[]>, key: K, rule: CompiledRule): void {
  const known = all.get(key);
  if (!known) all.set(key, [rule]);
  else if (known.at(-1) !== rule) known.push(rule);
}

/** The rules by the record type that they are about, for lists of rules that stay the same for many events. */
const byType = new WeakMap<readonly CompiledRule[], ReadonlyMap<string, RulesOfType>>();
const none = new RulesOfType([]);

/** Returns those of the rules that start from records of a type. */
export function rulesAbout({ system, recordType }: RecordRef, rules: readonly CompiledRule[]): RulesOfType {
  const known = byType.get(rules) ?? sorted(rules);
  byType.set(rules, known);
  return known.get(`${system}/${recordType}`) ?? none;
}

function sorted(rules: readonly CompiledRule[]): ReadonlyMap<string, RulesOfType> {
  const made = new Map<string, CompiledRule[]>();
  for (const rule of rules) {
    const { system, recordType } = rule.rule.trigger;
    add(made, `${system}/${recordType}`, rule);
  }
  return new Map([...made].map(([key, some]) => [key, new RulesOfType(some)]));
}
