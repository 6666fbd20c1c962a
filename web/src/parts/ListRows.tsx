import { useEffect, useRef, useState, type ReactNode, type RefObject } from 'react';
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
  readonly label: string;
}

/** Elements of a list, put in the order in which they are shown. */
interface Shown {
  readonly columns: readonly Column[];
  readonly rows: readonly ElementPair[];
  readonly moved: ReadonlySet<ElementPair>;
  readonly more: ReactNode;
}

/** Returns the elements that are shown: of a change those that changed come first, and of many only some until all are asked for. */
function useShown({ field, json, before, label }: ListRowsProps): Shown {
  const [all, setAll] = useState(false);
  const compares = before !== undefined;
  const definition = field ?? { name: '', label, type: 'list' as const };
  const pairs = pairElements(definition, compares ? before : json, json);
  const moved = new Set(pairs.filter((pair) => compares && differs(definition, pair)));
  const ordered = compares ? [...moved, ...pairs.filter((pair) => !moved.has(pair))] : pairs;
  const rows = all ? ordered : ordered.slice(0, shownAtFirst);
  const more = rows.length < ordered.length && (
    <button type="button" className="plain small" onClick={() => setAll(true)}>
      Show all {count(ordered.length, 'element')}
    </button>
  );
  return { columns: columnsOf(field, [...elementsOf(before), ...elementsOf(json)]), rows, moved, more };
}

/** How many elements a list has, or fields an object, where what they hold stands beside it or is too much for the place. */
export function Elements({ json }: { readonly json: Json | undefined }) {
  if (isBlankJson(json)) return <Value json={json} />;
  if (Array.isArray(json)) return <span className="dim">{count(json.length, 'element')}</span>;
  return isJsonObject(json) ? (
    <span className="dim">{count(Object.keys(json).length, 'field')}</span>
  ) : (
    <Value json={json} />
  );
}

/** Returns whether a value is a list of objects, which is shown as rows. */
export function isRows(json: Json | undefined): boolean {
  return Array.isArray(json) && json.some((element) => isJsonObject(element));
}

/** A list of objects as rows, a column for each of their fields; of a change, which elements came, went, or hold something else. */
export function ListRows(props: ListRowsProps) {
  const { before, tone = 'plain', label } = props;
  const { columns, rows, moved, more } = useShown(props);
  const compares = before !== undefined;
  const [scrolls, frame] = useScrolls();
  return (
    <div className="list-rows" role="group" aria-label={label} ref={frame} {...(scrolls && { tabIndex: 0 })}>
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
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((pair, at) => (
            <tr key={at}>
              {compares && (
                <td>
                  <Mark pair={pair} changed={moved.has(pair)} />
                </td>
              )}
              {columns.map(({ name, inner }) => (
                <td key={name}>
                  <Cell pair={pair} name={name} field={inner} compares={compares} tone={tone} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {more}
    </div>
  );
}

/** Returns whether an element is wider than its place, so that it has to be scrolled, by keys as well. */
function useScrolls(): readonly [boolean, RefObject<HTMLDivElement | null>] {
  const frame = useRef<HTMLDivElement>(null);
  const [scrolls, setScrolls] = useState(false);
  useEffect(() => {
    const node = frame.current;
    if (!node) return undefined;
    const watching = new ResizeObserver(() => setScrolls(node.scrollWidth > node.clientWidth));
    watching.observe(node);
    return () => watching.disconnect();
  }, []);
  return [scrolls, frame];
}

interface ListBlocksProps extends ListRowsProps {
  /** How the name of a field of the elements is shown. */
  readonly nameOf: (name: string) => ReactNode;
}

/** The same for a narrow place: what an element holds on a line, and below it what changed, by name. */
export function ListBlocks(props: ListBlocksProps) {
  const { before, tone = 'plain', label, nameOf } = props;
  const { columns, rows, moved, more } = useShown(props);
  const compares = before !== undefined;
  return (
    <div className="list-blocks" role="group" aria-label={label}>
      <div className="names">
        {columns.map(({ name }) => (
          <span key={name}>{nameOf(name)}</span>
        ))}
      </div>
      <ul>
        {rows.map((pair, at) => {
          const whole = !moved.has(pair) || pair.before === undefined || pair.after === undefined;
          const turned = columns.filter(
            ({ name, inner }) =>
              !whole && !sameValue(inner, heldIn(pair.before, name), heldIn(pair.after, name)),
          );
          return (
            <li key={at}>
              {compares && <Mark pair={pair} changed={moved.has(pair)} />}
              {columns
                .filter((column) => !turned.includes(column) && holdsAny(pair, column))
                .map(({ name, label: head, inner }) => (
                  <span key={name} title={head}>
                    <Cell pair={pair} name={name} field={inner} compares={compares} tone={tone} />
                  </span>
                ))}
              {turned.map(({ name, label: head, inner }) => (
                <div key={name} title={head}>
                  <span className="mono dim">{name}</span>{' '}
                  <Cell pair={pair} name={name} field={inner} compares tone={tone} />
                </div>
              ))}
            </li>
          );
        })}
      </ul>
      {more}
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
    <span className={`mark ${sign === '' ? '' : 'will'}`} title={word}>
      <span aria-hidden>{sign}</span>
      <span className="visually-hidden">{word}</span>
    </span>
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
  if (!compares) return <Value json={is} tone={isBlankJson(is) ? 'plain' : tone} quiet field={field} />;
  if (pair.after === undefined)
    return <del>{isBlankJson(was) ? null : <Value json={was} field={field} />}</del>;
  if (pair.before === undefined)
    return <Value json={is} tone={isBlankJson(is) ? 'plain' : 'will'} quiet field={field} />;
  return sameValue(field, was, is) ? (
    <Value json={is} quiet field={field} />
  ) : (
    <Change before={was} after={is} field={field} />
  );
}

/** Returns whether an element holds something in a column, before or after. */
const holdsAny = ({ before, after }: ElementPair, { name }: Column): boolean =>
  !isBlankJson(heldIn(before, name)) || !isBlankJson(heldIn(after, name));

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
