import { useState, type ReactNode } from 'react';
import {
  elementsOf,
  isBlankJson,
  isJsonObject,
  pairElements,
  readPath,
  sameValue,
  type ElementPair,
  type Field,
  type Json,
} from '@vast-knot/core';
import { count } from './time';
import { Change, Value, type Tone } from './Value';

/** Elements that are shown before somebody asks for all. */
const shownAtFirst = 12;

interface ListRowsProps {
  /** The list as its record type has it; without it the names of the elements' fields are the heads. */
  readonly field?: Field | undefined;
  readonly json: Json | undefined;
  /** What the list held before, where its change is shown; absent where nothing changes. */
  readonly before?: Json | undefined;
  readonly tone?: Tone;
  /** How the head of a column is shown, where it is more than read. */
  readonly nameOf?: ((name: string, label: string) => ReactNode) | undefined;
  readonly label: string;
}

/** Returns whether a value is a list of objects, which is shown as rows. */
export function isRows(json: Json | undefined): boolean {
  return Array.isArray(json) && json.some((element) => isJsonObject(element));
}

/** A list of objects as rows, a column for each of their fields; of a change, which elements came, went, or hold something else. */
export function ListRows({ field, json, before, tone = 'plain', nameOf, label }: ListRowsProps) {
  const [all, setAll] = useState(false);
  const compares = before !== undefined;
  const definition = field ?? { name: '', label, type: 'list' as const };
  const pairs = pairElements(definition, compares ? before : json, json);
  const moved = pairs.filter((pair) => differs(definition, pair));
  // Of a change, what stays as it is comes last.
  const ordered = compares ? [...moved, ...pairs.filter((pair) => !moved.includes(pair))] : pairs;
  const rows = all ? ordered : ordered.slice(0, shownAtFirst);
  const columns = columnsOf(field, [...elementsOf(before), ...elementsOf(json)]);
  return (
    <div className="list-rows" role="group" aria-label={label}>
      <table>
        <thead>
          <tr>
            {compares && (
              <th>
                <span className="visually-hidden">What became of it</span>
              </th>
            )}
            {columns.map(({ name, label: head }) => (
              <th key={name} title={head === name ? undefined : name}>
                {nameOf ? nameOf(name, head) : head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((pair, at) => (
            <tr key={at}>
              {compares && <Mark pair={pair} changed={moved.includes(pair)} />}
              {columns.map(({ name, inner }) => (
                <td key={name}>
                  <Cell pair={pair} name={name} field={inner} compares={compares} tone={tone} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length < ordered.length && (
        <button type="button" className="plain small" onClick={() => setAll(true)}>
          Show all {count(ordered.length, 'element')}
        </button>
      )}
    </div>
  );
}

function Mark({ pair, changed }: { readonly pair: ElementPair; readonly changed: boolean }) {
  const [sign, word] =
    pair.before === undefined
      ? ['+', 'added']
      : pair.after === undefined
        ? ['−', 'taken away']
        : changed
          ? ['→', 'changed']
          : ['', 'stays'];
  return (
    <td className={`mark ${sign === '' ? '' : 'will'}`} title={word}>
      <span aria-hidden>{sign}</span>
      <span className="visually-hidden">{word}</span>
    </td>
  );
}

interface CellProps {
  readonly pair: ElementPair;
  readonly name: string;
  readonly field: Field | undefined;
  readonly compares: boolean;
  readonly tone: Tone;
}

function Cell({ pair, name, field, compares, tone }: CellProps) {
  const [was, is] = [heldIn(pair.before, name), heldIn(pair.after, name)];
  if (!compares) return <Value json={is} tone={isBlankJson(is) ? 'plain' : tone} quiet />;
  if (pair.after === undefined) return <del>{isBlankJson(was) ? null : <Value json={was} />}</del>;
  if (pair.before === undefined) return <Value json={is} tone={isBlankJson(is) ? 'plain' : 'will'} quiet />;
  return sameValue(field, was, is) ? <Value json={is} quiet /> : <Change before={was} after={is} />;
}

function heldIn(element: Json | undefined, name: string): Json | undefined {
  if (isJsonObject(element)) return readPath(element, name);
  return name === '' ? element : undefined;
}

function differs(field: Field, { before, after }: ElementPair): boolean {
  const whole: Field = { ...field, type: 'object' };
  return !sameValue(field.fields ? whole : undefined, before, after);
}

interface Column {
  readonly name: string;
  readonly label: string;
  readonly inner: Field | undefined;
}

/** Returns the columns: fields that some element holds in the order of the schema, and behind them what no schema knows. */
function columnsOf(field: Field | undefined, elements: readonly Json[]): readonly Column[] {
  const held = new Set(
    elements.flatMap((element) =>
      isJsonObject(element)
        ? Object.entries(element).flatMap(([name, value]) => (isBlankJson(value) ? [] : [name]))
        : [''],
    ),
  );
  const known = (field?.fields ?? []).filter(({ name }) => held.has(name));
  const strangers = [...held].filter((name) => !known.some((inner) => inner.name === name));
  return [
    ...known.map((inner) => ({ name: inner.name, label: inner.label, inner })),
    ...strangers.map((name) => ({ name, label: name, inner: undefined })),
  ];
}
