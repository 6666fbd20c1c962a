import type { Json } from '../model/json';
import type { Expectation, Expected } from '../model/expected';
import { deedOf, type OutcomeOf } from './outcome';

/** Returns an outcome as what is expected from now on: every value as it came out. */
export function expectAll({ records, messages, problems }: OutcomeOf): Expected {
  return {
    records: records.map(({ key, change, fields }) => ({
      key,
      deed: deedOf(change),
      fields: Object.fromEntries(fields.map(({ path, after }) => [path, equalTo(after)])),
    })),
    messages: messages.map(({ key, data }) => ({
      key,
      data: Object.fromEntries(Object.entries(data).map(([path, value]) => [path, equalTo(value)])),
    })),
    problems,
  };
}

/** What is expected of one field of a record or message; undefined: that it does not change. */
interface FieldExpectation {
  /** The record or message, as in an outcome. */
  readonly key: string;
  readonly path: string;
  readonly expectation: Expectation | undefined;
}

/**
 * Returns what is expected, with one field of a record or message as given; `undefined` expects that it does not change. A record
 * that was not expected is from then on, with that field alone; one with no field left is expected no more.
 */
export function expectField(
  expected: Expected,
  outcome: OutcomeOf,
  { key, path, expectation }: FieldExpectation,
): Expected {
  const put = (fields: Readonly<Record<string, Expectation>>) => {
    const { [path]: _gone, ...others } = fields;
    return expectation ? { ...others, [path]: expectation } : others;
  };
  const message =
    outcome.messages.some((each) => each.key === key) || expected.messages.some((each) => each.key === key);
  if (message) {
    const known = expected.messages.find((each) => each.key === key) ?? { key, data: {} };
    return { ...expected, messages: replaced(expected.messages, { ...known, data: put(known.data) }) };
  }
  const got = outcome.records.find((each) => each.key === key);
  const known = expected.records.find((each) => each.key === key) ?? {
    key,
    deed: got ? deedOf(got.change) : ('write' as const),
    fields: {},
  };
  const changed = { ...known, fields: put(known.fields) };
  const idle = changed.deed === 'write' && Object.keys(changed.fields).length === 0;
  return {
    ...expected,
    records: idle ? expected.records.filter((each) => each.key !== key) : replaced(expected.records, changed),
  };
}

function replaced<T extends { readonly key: string }>(all: readonly T[], one: T): readonly T[] {
  return all.some(({ key }) => key === one.key)
    ? all.map((each) => (each.key === one.key ? one : each))
    : [...all, one];
}

function equalTo(value: Json): Expectation {
  return { is: 'equal', value };
}
