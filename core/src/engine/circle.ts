import { readPath, type Json, type JsonObject } from '../model/json';
import { refKey, type RecordRef } from '../model/record';
import { fieldWithin, type Catalog } from '../model/system';
import type { RuleRef } from './report';

/** One write of one rule to one record, in what an event leads to. */
export interface Turn {
  readonly ref: RecordRef;
  readonly rule: RuleRef;
  /** The record before it; undefined where the write created it. */
  readonly before: JsonObject | undefined;
  /** The record after it; undefined where the write removed it. */
  readonly after: JsonObject | undefined;
  /** The fields that it changed. */
  readonly changed: readonly string[];
}

/** Writes that go round. */
export interface Circle {
  readonly turns: readonly Turn[];
  /** Where it was stopped, and which rules are in it. */
  readonly sentence: string;
}

/**
 * Returns the circle that the last of `trail` closes: a rule makes the very change that it made before, because others took it back
 * in between. Undefined where it closes none. `trail` holds writes each of which was caused by, or saw, those before it.
 */
export function circleOf(trail: readonly Turn[], catalog: Catalog): Circle | undefined {
  const last = trail.at(-1);
  if (!last?.before) return undefined;
  const start = trail.findIndex((turn) => turn !== last && isSameTurn(turn, last));
  if (start < 0) return undefined;
  const round = trail.slice(start, -1);
  // What was changed on the way and stays changed is beside the circle.
  const turns = rulesOf(
    round.filter((turn) => turn.changed.some((path) => comesBack(round, turn, path))),
    trail,
  );
  const [path = ''] = last.changed;
  const { ref } = last;
  const label =
    fieldWithin(catalog.recordType(ref.system, ref.recordType)?.fields ?? [], path)?.label ?? path;
  return {
    turns,
    sentence: `A circle was stopped: “${label}” of ${refKey(ref)} came back to a value it had before. ${rulesIn(turns)}`,
  };
}

/**
 * Returns what goes round in a trail that has become too long: the writes of rules that wrote more than once, and of those that
 * wrote to the same fields.
 */
export function endlessPartOf(trail: readonly Turn[], deepest: number): Circle {
  const again = trail.filter(({ rule }) => trail.filter((other) => other.rule.id === rule.id).length > 1);
  const places = new Set(again.flatMap(placesOf));
  const turns = rulesOf(
    [...again, ...trail.filter((turn) => placesOf(turn).some((place) => places.has(place)))],
    trail,
  );
  const [last] = trail.slice(-1);
  const where = last ? ` It was stopped at ${refKey(last.ref)}.` : '';
  const names = turns.length > 0 ? rulesIn(turns) : `It led through ${namesOf(trail)}.`;
  return {
    turns,
    sentence: `What the writes cause was followed ${deepest} deep and goes on.${where} ${names}`,
  };
}

/** Returns all turns of a trail whose rules are among those of `some`. */
function rulesOf(some: readonly Turn[], trail: readonly Turn[]): readonly Turn[] {
  const rules = new Set(some.map(({ rule }) => rule.id));
  return trail.filter(({ rule }) => rules.has(rule.id));
}

function isSameTurn(a: Turn, b: Turn): boolean {
  return a.rule.id === b.rule.id && textOf(a) === textOf(b);
}

function textOf({ ref, changed, before, after }: Turn): string {
  const values = changed.map((path) => [path, valueAt(before, path), valueAt(after, path)]);
  return JSON.stringify([refKey(ref), values]);
}

/** Returns whether a field that a turn changed holds at the end of a round what it held at its start. */
function comesBack(round: readonly Turn[], { ref }: Turn, path: string): boolean {
  const key = refKey(ref);
  const own = round.filter((turn) => refKey(turn.ref) === key && turn.changed.includes(path));
  const text = (of: JsonObject | undefined) => JSON.stringify(valueAt(of, path));
  return text(own[0]?.before) === text(own.at(-1)?.after);
}

const valueAt = (record: JsonObject | undefined, path: string): Json => readPath(record, path) ?? null;

const placesOf = ({ ref, changed }: Turn): readonly string[] =>
  changed.map((path) => `${refKey(ref)}#${path}`);

function namesOf(turns: readonly Turn[]): string {
  return [...new Map(turns.map(({ rule }) => [rule.id, rule.name])).values()].join(' → ');
}

function rulesIn(turns: readonly Turn[]): string {
  return `Rules in it: ${namesOf(turns)}. What went round is not written.`;
}
