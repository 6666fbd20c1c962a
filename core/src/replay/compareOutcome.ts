import type { Deed } from '../model/expected';
import { refOf } from '../model/record';
import { sameValue } from '../model/equal';
import { isJsonObject, type Json } from '../model/json';
import { fieldAt, type Catalog, type Field } from '../model/system';
import type { Expectation, Expected } from '../model/expected';
import { isAsExpected } from './expectation';
import { deedOf, type MessageOutcome, type OutcomeOf, type RecordOutcome } from './outcome';

export type FieldVerdict =
  | 'holds'
  /** It changes, to something else. */
  | 'differs'
  /** It should change and does not. */
  | 'missing'
  /** It changes and should not. */
  | 'not expected';

export interface FieldComparison {
  readonly path: string;
  readonly before: Json;
  readonly got?: Json;
  readonly expected?: Expectation;
  readonly verdict: FieldVerdict;
}

/** A record or a message, as it came out beside what was expected. */
export interface ThingComparison {
  readonly key: string;
  readonly verdict: FieldVerdict;
  readonly deed?: Deed;
  readonly expectedDeed?: Deed;
  readonly fields: readonly FieldComparison[];
}

export type SampleVerdict = 'holds' | 'differs' | 'nothing expected';

/** An outcome held against what a sample expects of it. */
export interface OutcomeComparison {
  readonly verdict: SampleVerdict;
  readonly records: readonly ThingComparison[];
  readonly messages: readonly ThingComparison[];
  readonly problems: readonly { readonly text: string; readonly verdict: FieldVerdict }[];
  /** Fields, records, messages and problems that are not as expected. */
  readonly differences: number;
}

/** Holds an outcome against what is expected of it, field by field. */
export function compareOutcome(
  outcome: OutcomeOf,
  expected: Expected | undefined,
  catalog: Catalog,
): OutcomeComparison {
  if (!expected)
    return { verdict: 'nothing expected', records: [], messages: [], problems: [], differences: 0 };
  const records = pairs(outcome.records, expected.records).map(([got, wanted]): ThingComparison => {
    const key = got?.key ?? wanted?.key ?? '';
    const fields = fieldsOf(got, wanted && byLeaf(wanted.fields), (path) => fieldOf(catalog, key, path));
    const deed = got && deedOf(got.change);
    const otherDeed = deed && wanted && deed !== wanted.deed;
    return {
      key,
      ...(deed && { deed }),
      ...(wanted && { expectedDeed: wanted.deed }),
      fields,
      verdict: otherDeed ? 'differs' : verdictOf(got, wanted, fields),
    };
  });
  const messages = pairs(outcome.messages, expected.messages).map(([got, wanted]): ThingComparison => {
    const fields = dataOf(got, wanted?.data);
    return { key: got?.key ?? wanted?.key ?? '', fields, verdict: verdictOf(got, wanted, fields) };
  });
  const problems = [
    ...outcome.problems.map((text) => ({
      text,
      verdict: expected.problems.includes(text) ? ('holds' as const) : ('not expected' as const),
    })),
    ...expected.problems
      .filter((text) => !outcome.problems.includes(text))
      .map((text) => ({ text, verdict: 'missing' as const })),
  ];
  const differences =
    [...records, ...messages].reduce((sum, thing) => sum + differencesOf(thing), 0) +
    problems.filter(({ verdict }) => verdict !== 'holds').length;
  return { verdict: differences === 0 ? 'holds' : 'differs', records, messages, problems, differences };
}

/** Returns how many things differ. A record that differs as a whole counts once; otherwise each of its fields does. */
function differencesOf({ verdict, fields }: ThingComparison): number {
  if (verdict === 'holds') return 0;
  return Math.max(1, fields.filter((field) => field.verdict !== 'holds').length);
}

function pairs<G extends { readonly key: string }, W extends { readonly key: string }>(
  got: readonly G[],
  wanted: readonly W[],
): readonly (readonly [G | undefined, W | undefined])[] {
  const open = new Map(wanted.map((each) => [each.key, each]));
  const matched = got.map((each): readonly [G, W | undefined] => {
    const partner = open.get(each.key);
    open.delete(each.key);
    return [each, partner];
  });
  return [...matched, ...[...open.values()].map((each): readonly [undefined, W] => [undefined, each])];
}

function verdictOf(got: unknown, wanted: unknown, fields: readonly FieldComparison[]): FieldVerdict {
  if (!wanted) return 'not expected';
  if (!got) return 'missing';
  return fields.every(({ verdict }) => verdict === 'holds') ? 'holds' : 'differs';
}

/** Returns what is expected by the paths of single fields; samples from before fields in objects had their own said whole objects. */
function byLeaf(fields: Readonly<Record<string, Expectation>>): Readonly<Record<string, Expectation>> {
  const leaves = (path: string, expected: Expectation): readonly (readonly [string, Expectation])[] =>
    expected.is === 'equal' && isJsonObject(expected.value) && Object.keys(expected.value).length > 0
      ? Object.entries(expected.value).flatMap(([name, value = null]) =>
          leaves(`${path}.${name}`, { is: 'equal', value }),
        )
      : [[path, expected]];
  return Object.fromEntries(Object.entries(fields).flatMap(([path, expected]) => leaves(path, expected)));
}

function fieldsOf(
  got: RecordOutcome | undefined,
  wanted: Readonly<Record<string, Expectation>> = {},
  fieldAtPath: (path: string) => Field | undefined,
): readonly FieldComparison[] {
  const changed = new Set((got?.fields ?? []).map(({ path }) => path));
  return [
    ...(got?.fields ?? []).map(({ path, before, after }) =>
      compared({ path, before, got: after, expected: wanted[path] }, fieldAtPath(path)),
    ),
    ...Object.entries(wanted)
      .filter(([path]) => !changed.has(path))
      .map(([path, expected]) => ({ path, before: null, expected, verdict: 'missing' as const })),
  ];
}

function dataOf(
  got: MessageOutcome | undefined,
  wanted: Readonly<Record<string, Expectation>> = {},
): readonly FieldComparison[] {
  const sent = Object.entries(got?.data ?? {});
  return [
    ...sent.map(([path, value]) =>
      compared({ path, before: null, got: value, expected: wanted[path] }, undefined),
    ),
    ...Object.entries(wanted)
      .filter(([path]) => !got || !Object.hasOwn(got.data, path))
      .map(([path, expected]) => ({ path, before: null, expected, verdict: 'missing' as const })),
  ];
}

interface Compared {
  readonly path: string;
  readonly before: Json;
  readonly got: Json;
  readonly expected: Expectation | undefined;
}

function compared({ path, before, got, expected }: Compared, field: Field | undefined): FieldComparison {
  if (!expected) return { path, before, got, verdict: 'not expected' };
  return { path, before, got, expected, verdict: isAsExpected(expected, got, field) ? 'holds' : 'differs' };
}

function fieldOf(catalog: Catalog, key: string, path: string): Field | undefined {
  const { system, recordType } = refOf(key);
  const type = catalog.recordType(system, recordType);
  return type && fieldAt(type.fields, path);
}

/** A field of a record or message that two outcomes leave differently; absent on a side where it does not change. */
export interface OutcomeDifference {
  readonly key: string;
  readonly path: string;
  readonly one?: Json;
  readonly other?: Json;
}

/** Returns what two outcomes of one event leave differently, field by field. */
export function differencesBetween(
  one: OutcomeOf,
  other: OutcomeOf,
  catalog: Catalog,
): readonly OutcomeDifference[] {
  const things = (outcome: OutcomeOf) => [
    ...outcome.records.map(({ key, change, fields }) => ({
      key,
      values: new Map<string, Json>([
        ...(change.kind === 'edit' ? [] : [['', deedOf(change)] as const]),
        ...fields.map(({ path, after }) => [path, after] as const),
      ]),
    })),
    ...outcome.messages.map(({ key, data }) => ({
      key: `message ${key}`,
      values: new Map(Object.entries(data)),
    })),
    ...outcome.problems.map((text) => ({ key: 'problem', values: new Map<string, Json>([[text, text]]) })),
  ];
  const values = (outcome: OutcomeOf) =>
    new Map(
      things(outcome).flatMap(({ key, values: own }) =>
        [...own].map(([path, value]) => [JSON.stringify([key, path]), { key, path, value }] as const),
      ),
    );
  const [left, right] = [values(one), values(other)];
  return [...new Set([...left.keys(), ...right.keys()])].flatMap((at): OutcomeDifference[] => {
    const [a, b] = [left.get(at), right.get(at)];
    const { key = '', path = '' } = a ?? b ?? {};
    if (a && b && sameValue(fieldOf(catalog, key, path), a.value, b.value)) return [];
    return [{ key, path, ...(a && { one: a.value }), ...(b && { other: b.value }) }];
  });
}
