import type { RowVersion, TableStyle } from '../../connection';
import type { Field, RecordType } from '../../model/system';
import type { Reason } from '../proposal';
import { changedField, isKeptBySystem, nameFieldOf } from '../recordType';
import { labelOf, pluralLabel, singularName } from '../words';
import type { CatalogueTable } from './catalogue';
import { readCheck } from './checks';
import { fieldOfColumn } from './columns';

/** A record type as it is proposed for a table or view. */
export interface ProposedTable {
  readonly type: RecordType;
  readonly style: TableStyle;
  readonly reasons: readonly Reason[];
}

/** What was learnt of a database. */
export interface DatabaseProposal {
  readonly types: readonly ProposedTable[];
  /** What was left out, each with its reason. */
  readonly leftOut: readonly string[];
}

/** Rows are compared as often as their number allows. */
const manyRows = 100_000;

/** Returns the record types that the tables and views of a database are, with how their rows are reached, and why. */
export function proposeFromCatalogue(tables: readonly CatalogueTable[]): DatabaseProposal {
  const leftOut: string[] = [];
  const names = new Set<string>();
  const open = tables.flatMap((table) => {
    const called = `${table.schema}.${table.table}`;
    const key = keyOf(table);
    if (typeof key === 'string') {
      leftOut.push(`${called}: ${key}.`);
      return [];
    }
    const plain = singularName(table.table)
      .replace(/[.'"[\]{}()]/gu, ' ')
      .slice(0, 100);
    let name = plain;
    for (let at = 1; names.has(name); at++) name = `${table.schema} ${plain}${at === 1 ? '' : ` ${at}`}`;
    names.add(name);
    return [{ table, name, key }];
  });
  const typeNames = new Map(
    open.map(({ table, name, key }) => [`${table.schema}.${table.table}`, { name, key }]),
  );
  const types = open.map(({ table, name, key }) => {
    const { fields, reasons, left } = fieldsOf(table, typeNames);
    leftOut.push(...left.map((sentence) => `${table.schema}.${table.table}: ${sentence}`));
    const label = table.comment !== '' && table.comment.length <= 40 ? table.comment : labelOf(name);
    const type: RecordType = {
      name,
      label: label.slice(0, 120),
      plural: pluralLabel(label).slice(0, 300),
      idField: key.column,
      nameField: nameFieldOf(fields, key.column),
      fields: fields.map((field) => (field.name === key.column ? asId(field, table) : field)),
    };
    const { style, reasons: because } = styleOf(table, type);
    const about = { about: key.column, because: key.because, sure: key.sure };
    return { type, style, reasons: [about, ...reasons, ...because] };
  });
  return { types, leftOut };
}

/** An id is told apart, and not counted. One that the database gives by itself is not written. */
function asId({ min: _min, max: _max, ...field }: Field, { columns }: CatalogueTable): Field {
  const given = columns.some(({ name, hasDefault }) => name === field.name && hasDefault);
  return given ? { ...field, readOnly: true } : field;
}

interface Key {
  readonly column: string;
  readonly because: string;
  readonly sure: Reason['sure'];
}

/** Returns the column by which a row is known, or why there is none. */
function keyOf({ kind, key, unique, columns }: CatalogueTable): Key | string {
  const [first] = key;
  if (key.length === 1 && first !== undefined)
    return { column: first, because: 'it is the primary key', sure: 'said' };
  if (key.length > 1) return `its key is of several columns (${key.join(', ')}), and a record has one id`;
  const required = (name: string) => columns.some((column) => column.name === name && column.notNull);
  const alone = unique.find((names) => names.length === 1 && required(names[0] ?? ''))?.[0];
  if (alone !== undefined) return { column: alone, because: 'it is unique, and never blank', sure: 'said' };
  const called = columns.find(({ name }) => name.toLowerCase() === 'id');
  if (kind === 'view' && called)
    return { column: called.name, because: 'it is called so; a view does not say', sure: 'guess' };
  return kind === 'view' ? 'nothing says by which column its rows are known' : 'it has no key';
}

interface Known {
  readonly name: string;
  readonly key: Key;
}

function fieldsOf(
  table: CatalogueTable,
  types: ReadonlyMap<string, Known>,
): {
  readonly fields: readonly Field[];
  readonly reasons: readonly Reason[];
  readonly left: readonly string[];
} {
  const reasons: Reason[] = [];
  const left: string[] = [];
  const checks = table.checks.map((check) => ({ check, read: readCheck(check) }));
  for (const { check, read } of checks)
    if (!read) left.push(`it also checks, which is only known to it: ${check.slice(0, 300)}.`);
  const said = checks.flatMap(({ read = [] }) => read);
  const fields = table.columns.flatMap((column): Field[] => {
    const field = fieldOfColumn(column);
    if (typeof field === 'string') {
      left.push(`the column ${column.name} is left out: ${field}.`);
      return [];
    }
    const because = (text: string, sure: Reason['sure'] = 'said') => {
      if (!reasons.some((known) => known.about === field.name && known.because === text))
        reasons.push({ about: field.name, because: text, sure });
    };
    because(`the database has it as ${column.written}`);
    const reference = table.references.find(
      ({ columns }) => columns.length === 1 && columns[0] === column.name,
    );
    const target = reference && types.get(`${reference.schema}.${reference.table}`);
    if (reference && target && reference.toColumns[0] === target.key.column) {
      because(`it points to ${reference.schema}.${reference.table}`);
      const { min: _min, max: _max, maxLength: _longest, ...rest } = field;
      return [{ ...rest, type: 'reference', refersTo: [target.name] }];
    }
    let known = field;
    for (const { column: of, options, over, under, ...limits } of said.filter(
      (each) => each.column === column.name,
    )) {
      because(`a check of ${of} says so`);
      known = { ...known, ...limits };
      if (known.type === 'integer')
        known = {
          ...known,
          ...(over !== undefined && { min: Math.floor(over) + 1 }),
          ...(under !== undefined && { max: Math.ceil(under) - 1 }),
        };
      else if (over !== undefined || under !== undefined)
        left.push(
          `it also checks that ${of} is ${over === undefined ? `less than ${under ?? 0}` : `more than ${over}`}.`,
        );
      if (options && (known.type === 'text' || known.type === 'choice')) {
        const { maxLength: _longest, ...rest } = known;
        known = {
          ...rest,
          type: 'choice',
          options: options.map((value) => ({ value, label: labelOf(value) || value })),
        };
      }
    }
    if (isKeptBySystem(known) && known.type !== 'text' && !table.key.includes(known.name)) {
      because('it is called so', 'likely');
      known = { ...known, keptBySystem: true };
    }
    return [known];
  });
  return { fields, reasons, left };
}

function styleOf(
  { schema, table, kind, unique, mayCreate, mayChange, mayRemove, rows }: CatalogueTable,
  { fields, idField }: RecordType,
): { readonly style: TableStyle; readonly reasons: readonly Reason[] } {
  const reasons: Reason[] = [];
  const because = (about: string, text: string, sure: Reason['sure'] = 'said') =>
    reasons.push({ about, because: text, sure });
  const version: RowVersion = kind === 'table' ? { kind: 'row' } : { kind: 'none' };
  const writes = [
    ...(mayCreate ? (['create'] as const) : []),
    ...(mayChange ? (['change'] as const) : []),
    ...(mayRemove ? (['remove'] as const) : []),
  ];
  because(
    'writes',
    writes.length === 0
      ? 'the user may only read it'
      : `the user may ${writes.join(', ')} rows${writes.length === 3 ? '' : ', and no more'}`,
  );
  const key = unique.find(
    (names) => !names.includes(idField) && names.every((name) => fields.some((each) => each.name === name)),
  );
  if (key) because('naturalKey', `${key.join(', ')} ${key.length === 1 ? 'is' : 'are'} unique`);
  const changed = changedField(fields);
  const asked = changed && (changed.type === 'datetime' || changed.type === 'integer') ? changed : undefined;
  if (asked) because('listening', `${asked.name} seems to hold the last change`, 'likely');
  const everySeconds = rows > manyRows ? 86_400 : asked ? 3600 : 300;
  // Of a table that was never counted nothing is known.
  if (rows > 0) because('listening', `it has about ${rows.toLocaleString('en')} rows`);
  return {
    style: {
      schema,
      table,
      version,
      writes,
      ...(key && { naturalKey: key }),
      listening: {
        ...(asked && { asked: { field: asked.name, overlapSeconds: 60, everySeconds: 60 } }),
        compared: { everySeconds },
      },
    },
    reasons,
  };
}
