import { withEndpoint, type Action } from '../engine/actions';
import type { RuleBody } from '../engine/rule';
import { ownSystem } from '../model/counterpart';
import { isJsonObject, type JsonObject } from '../model/json';
import type { RecordRef, StoredRecord } from '../model/record';
import type { Sample } from '../model/sample';
import type { WholeBundle } from './bundle';

/** What the slots of a bundle are bound to: keys of its systems and addresses, each with the key that stands for it here. */
export interface Bindings {
  readonly systems: Readonly<Record<string, string>>;
  readonly addresses: Readonly<Record<string, string>>;
}

/** Returns a bundle as if it had been made with the systems and addresses that its slots are bound to. What is not bound keeps its key. */
export function rebound(bundle: WholeBundle, { systems, addresses }: Bindings): WholeBundle {
  const system = (key: string) => (Object.hasOwn(systems, key) ? (systems[key] ?? key) : key);
  const address = (key: string) => (Object.hasOwn(addresses, key) ? (addresses[key] ?? key) : key);
  const names: Names = { system, address };
  return {
    ...bundle,
    systems: bundle.systems.map((each) => ({
      ...each,
      system: { ...each.system, key: system(each.system.key) },
    })),
    addresses: bundle.addresses.map((each) => ({ ...each, key: address(each.key) })),
    rules: bundle.rules.map((each) => ({ ...each, rule: reboundRule(each.rule, names) })),
    samples: bundle.samples.map((each) => reboundSample(each, names)),
  };
}

interface Names {
  readonly system: (key: string) => string;
  readonly address: (key: string) => string;
}

function reboundRule(rule: RuleBody, { system, address }: Names): RuleBody {
  return {
    ...rule,
    trigger: { ...rule.trigger, system: system(rule.trigger.system) },
    finds: rule.finds.map((find) => ({ ...find, system: system(find.system) })),
    actions: rule.actions.map((action): Action => {
      const sent = withEndpoint(action, address);
      return 'system' in sent ? { ...sent, system: system(sent.system) } : sent;
    }),
  };
}

function reboundSample({ event, records, masked, expected, ...sample }: Sample, names: Names): Sample {
  const ref = <R extends RecordRef>(one: R): R => ({ ...one, system: names.system(one.system) });
  /** `system/type/…`: the key of a record, or the place of a masked field. */
  const key = (text: string) => {
    const [system = '', ...rest] = text.split('/');
    return [names.system(system), ...rest].join('/');
  };
  const own = (stored: StoredRecord): StoredRecord => ({
    ...stored,
    ref: ref(stored.ref),
    record: stored.ref.system === ownSystem ? reboundPair(stored.record, names) : stored.record,
  });
  return {
    ...sample,
    event: { ...event, ref: ref(event.ref) },
    records: records.map(own),
    ...(masked && { masked: masked.map(key) }),
    ...(expected && {
      expected: {
        ...expected,
        records: expected.records.map((each) => ({ ...each, key: key(each.key) })),
        messages: expected.messages.map((each) => ({ ...each, key: messageKey(each.key, names, key) })),
      },
    }),
  };
}

/** A pair of counterparts names the systems of both. */
function reboundPair(record: JsonObject, { system }: Names): JsonObject {
  const renamed = Object.entries(record).map(([name, value]) =>
    (name === 'a_system' || name === 'b_system') && typeof value === 'string'
      ? [name, system(value)]
      : [name, value],
  );
  const pair: unknown = Object.fromEntries(renamed);
  return isJsonObject(pair) ? pair : record;
}

/** `address type system/type/id`, and a number where there are several. */
function messageKey(text: string, { address }: Names, key: (text: string) => string): string {
  const [endpoint = '', type = '', ...about] = text.split(' ');
  return [address(endpoint), type, key(about.join(' '))].join(' ');
}
