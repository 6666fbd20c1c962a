import { endpointsOf } from '../engine/actions';
import type { RuleBody } from '../engine/rule';
import { tablesReadBy } from '../engine/formulasOf';
import { ownSystem } from '../model/counterpart';
import type { Sample } from '../model/sample';
import type { LookupTable } from '../table/table';
import { plainSample, plainTable } from './items';
import type { BundledAddress, BundledRule, BundledSystem, WholeBundle } from './bundle';

/** What rules are taken out of. */
interface Whole {
  readonly rules: readonly BundledRule[];
  readonly systems: readonly BundledSystem[];
  readonly addresses: readonly BundledAddress[];
  readonly tables: readonly LookupTable[];
  readonly samples: readonly Sample[];
}

/**
 * Returns the rules of these ids as a bundle with all that they need: the rules whose actions they do, the lookup tables that they read, the
 * systems whose records they name, the outside addresses that they send to by name, and the samples that start one of them. Everything
 * stands in the order of its name or id, so that the same content is the same bundle.
 */
export function bundleOf(ids: readonly string[], whole: Whole): WholeBundle {
  const rules = withApplied(new Set(ids), whole.rules);
  const bodies = rules.map(({ rule }) => rule);
  const tables = new Set(bodies.flatMap((body) => [...tablesReadBy(body)]));
  const samples = whole.samples
    .filter(({ event }) => bodies.some((body) => starts(event.ref, body)))
    .map(plainSample);
  const systems = new Set([
    ...bodies.flatMap(systemsIn),
    ...samples.flatMap(({ event, records }) => [event.ref.system, ...records.map(({ ref }) => ref.system)]),
  ]);
  const addresses = new Set(bodies.flatMap(({ actions }) => endpointsOf(actions)));
  return {
    systems: whole.systems
      .filter(({ system }) => systems.has(system.key) && system.key !== ownSystem)
      .map(({ system: { key, tag, name, hue, recordTypes }, connection }) => ({
        system: { key, tag, name, hue, recordTypes },
        ...(connection && { connection }),
      }))
      .sort(by(({ system }) => system.key)),
    addresses: whole.addresses
      .filter(({ key }) => addresses.has(key))
      .map(({ key, name }) => ({ key, name }))
      .sort(by(({ key }) => key)),
    tables: whole.tables
      .filter(({ name }) => tables.has(name))
      .map(plainTable)
      .sort(by(({ name }) => name)),
    rules: [...rules].sort(by(({ id }) => id)),
    samples: [...samples].sort(by(({ id }) => id)),
  };
}

const by =
  <T>(key: (one: T) => string) =>
  (a: T, b: T): number =>
    key(a) < key(b) ? -1 : 1;

/** Returns the chosen rules and those whose actions they do, and so on. */
function withApplied(chosen: ReadonlySet<string>, all: readonly BundledRule[]): readonly BundledRule[] {
  const wanted = new Set(chosen);
  for (const id of wanted) {
    const rule = all.find((each) => each.id === id)?.rule;
    for (const action of rule?.actions ?? []) if (action.kind === 'apply') wanted.add(action.rule);
  }
  return all.filter(({ id }) => wanted.has(id));
}

function starts(
  { system, recordType }: { readonly system: string; readonly recordType: string },
  body: RuleBody,
): boolean {
  return body.trigger.system === system && body.trigger.recordType === recordType;
}

/** Returns the keys of the systems whose records a rule names. */
export function systemsIn({ trigger, finds, actions }: RuleBody): readonly string[] {
  return [
    trigger.system,
    ...finds.map(({ system }) => system),
    ...actions.flatMap((action) => ('system' in action ? [action.system] : [])),
  ];
}
