import {
  Catalog,
  compileRule,
  eventInstant,
  runLines,
  withItem,
  type Env,
  type Field,
  type Json,
  type JsonObject,
  type Rule,
} from '@vast-knot/core';
import { bestTimes, type Figure } from './timing';

const elements = 10_000;
const text = (name: string, maxLength = 80): Field => ({ name, label: name, type: 'text', maxLength });
const whole = (name: string, max: number): Field => ({ name, label: name, type: 'integer', min: 0, max });

/** A cargo line with ten fields, of which a unit with ten fields is made. */
const lineFields: readonly Field[] = [
  whole('no', 1_000_000),
  text('goods'),
  text('mark'),
  text('seal'),
  text('port', 5),
  text('remark'),
  whole('packages', 10_000),
  whole('grossKg', 60_000),
  whole('tareKg', 60_000),
  { name: 'due', label: 'due', type: 'date' },
];
const unitFields: readonly Field[] = [
  whole('no', 1_000_000),
  text('goods'),
  text('mark'),
  text('seal'),
  text('port', 5),
  text('label', 120),
  whole('packages', 10_000),
  whole('grossKg', 60_000),
  whole('netKg', 60_000),
  { name: 'due', label: 'due', type: 'date' },
];

interface Line {
  readonly no: number;
  readonly goods: string;
  readonly mark: string;
  readonly seal: string;
  readonly port: string;
  readonly remark: string | null;
  readonly packages: number;
  readonly grossKg: number;
  readonly tareKg: number;
  readonly due: string;
}

/** What each field of a unit is made of, as a formula and by hand. */
const made: Readonly<Record<string, readonly [formula: string, byHand: (line: Line) => Json]>> = {
  no: ['item.no', ({ no }) => no],
  goods: ['TRIM(item.goods)', ({ goods }) => nfc(goods).trim().replace(/ {2,}/g, ' ')],
  mark: ['UPPER(item.mark)', ({ mark }) => nfc(mark).toUpperCase()],
  seal: ['SUBSTITUTE(item.seal, "-", "")', ({ seal }) => nfc(seal).replaceAll('-', '')],
  port: ['item.port', ({ port }) => nfc(port)],
  label: ['item.packages & " of " & item.goods', ({ packages, goods }) => `${packages} of ${nfc(goods)}`],
  packages: ['item.packages', ({ packages }) => packages],
  grossKg: ['item.grossKg', ({ grossKg }) => grossKg],
  netKg: ['item.grossKg - item.tareKg', ({ grossKg, tareKg }) => grossKg - tareKg],
  due: ['item.due', ({ due }) => dateOf(due)],
};
const nfc = (value: string) => value.normalize('NFC');

function dateOf(value: string): string {
  if (!/^\d{4}-\d\d-\d\d$/.test(value) || Number.isNaN(Date.parse(value)))
    throw new Error(`${value} is no date`);
  return value;
}

/** A list of 10,000 objects of ten fields, mapped to as many records: the compiled lines against a function written by hand. */
export async function benchListOfObjects(): Promise<readonly Figure[]> {
  const type = (name: string, fields: readonly Field[]) => ({
    name,
    label: name,
    plural: name,
    idField: 'id',
    nameField: 'id',
    fields: [text('id'), ...fields],
  });
  const list = (name: string, fields: readonly Field[]): Field => ({
    name,
    label: name,
    type: 'list',
    keyField: 'no',
    fields,
  });
  const compiled = compileRule(rule, {
    catalog: new Catalog([
      {
        key: 's',
        tag: 'SS',
        name: 'S',
        hue: 0,
        recordTypes: [
          type('booking', [list('lines', lineFields), list('units', unitFields)]),
          type('unit', unitFields),
        ],
      },
    ]),
    tables: new Map(),
  });
  if (!compiled.ok) throw new Error(compiled.problems[0]?.error.message);
  const [creating, writing] = compiled.compiled.actions;
  const lines = Array.from({ length: elements }, (_none, at): Line => ({
    no: at + 1,
    goods: ` Frozen  cod ${at % 90}`,
    mark: `sk-${at}`,
    seal: `S-${at}-${at % 7}`,
    port: `QS${at % 900}`,
    remark: at % 3 === 0 ? null : `Bay ${at % 40}`,
    packages: 1 + (at % 60),
    grossKg: 900 + (at % 5000),
    tareKg: at % 800,
    due: `2026-03-${String(1 + (at % 28)).padStart(2, '0')}`,
  }));
  const record = { id: 'B1', lines } as unknown as JsonObject;
  const env: Env = {
    record,
    before: null,
    target: record,
    found: {},
    changed: new Set(),
    event: { kind: 'updated', id: '', source: '', time: eventInstant('2026-03-09T09:00:00Z') },
  };
  const fields = { records: 0, recordsByHand: 0, listed: 0, listedByHand: 0 };
  const best = await bestTimes(
    {
      records: () => {
        fields.records = 0;
        for (const item of lines)
          fields.records += runLines(
            creating?.lines ?? [],
            {},
            { env: withItem(env, item as never) },
          ).edits.length;
      },
      recordsByHand: () => {
        fields.recordsByHand = 0;
        for (const line of lines) fields.recordsByHand += editsByHand(line).length;
      },
      listed: () => {
        const [report] = runLines(writing?.lines ?? [], record, { env }).reports;
        fields.listed = sizeOf(report && 'json' in report.value ? report.value.json : null);
      },
      listedByHand: () => {
        fields.listedByHand = sizeOf(
          lines.map((line) => Object.fromEntries(editsByHand(line).map(({ path, after }) => [path, after]))),
        );
      },
    },
    15,
  );
  if (fields.records !== fields.recordsByHand || fields.listed !== fields.listedByHand)
    throw new Error(`they do not make the same: ${JSON.stringify(fields)}`);
  const ratio = best.records / best.recordsByHand;
  return [
    { what: '10,000 objects of 10 fields to records', value: best.records, unit: 'ms' },
    { what: 'the same by hand', value: best.recordsByHand, unit: 'ms' },
    {
      what: 'objects to records against by hand',
      value: ratio,
      unit: '×',
      wanted: 'at most 2.0',
      met: ratio <= 2,
    },
    { what: 'the list to another list of objects', value: best.listed, unit: 'ms' },
    { what: 'list to list against by hand', value: best.listed / best.listedByHand, unit: '×' },
  ];
}

const sizeOf = (json: Json): number =>
  Array.isArray(json)
    ? json.reduce<number>((sum, element) => sum + Object.keys(element as JsonObject).length, 0)
    : 0;

/** As a careful programmer writes it: blanks, lengths and ranges are looked at. */
function editsByHand(
  line: Line,
): readonly { readonly path: string; readonly before: undefined; readonly after: Json }[] {
  const edits: { path: string; before: undefined; after: Json }[] = [];
  for (const { name, maxLength, min, max } of unitFields) {
    const after = made[name]?.[1](line) ?? null;
    if (typeof after === 'string' && maxLength !== undefined && [...after].length > maxLength)
      throw new Error(`${name} is too long`);
    if (typeof after === 'number' && ((min ?? after) > after || (max ?? after) < after))
      throw new Error(`${name} is out of range`);
    if (after !== null && after !== '') edits.push({ path: name, before: undefined, after });
  }
  return edits;
}

const rule: Rule = {
  id: 'r',
  version: 1,
  name: 'bench',
  note: '',
  trigger: { system: 's', recordType: 'booking', kinds: ['updated'], watched: [] },
  guard: '',
  finds: [],
  actions: [
    {
      kind: 'create',
      alias: 'unit',
      system: 's',
      recordType: 'unit',
      each: 'lines',
      lines: Object.entries(made).map(([field, [formula]]) => ({ field, formula, policy: 'always' })),
    },
    {
      kind: 'write',
      target: 'record',
      lines: [
        {
          field: 'units',
          formula: `EACH(lines, OBJECT(${Object.entries(made)
            .map(([field, [formula]]) => `"${field}", ${formula}`)
            .join(', ')}))`,
          policy: 'always',
        },
      ],
    },
  ],
};
