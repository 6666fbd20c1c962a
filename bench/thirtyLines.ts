import {
  Catalog,
  compileRule,
  eventInstant,
  runLines,
  TableIndex,
  type Env,
  type Field,
  type Json,
  type JsonObject,
  type LookupTable,
  type Rule,
  type System,
} from '@vast-knot/core';
import { bestTimes, type Figure } from './timing';

const records = 10_000;
const regions: LookupTable = {
  name: 'Regions',
  columns: [
    { name: 'town', label: 'Town', type: 'text', key: true },
    { name: 'region', label: 'Region', type: 'text', key: false },
    { name: 'desk', label: 'Desk', type: 'text', key: false },
  ],
  rows: Array.from({ length: 400 }, (_none, at) => [`Town ${at}`, `R${at % 9}`, `Desk ${at % 5}`]),
  matching: 'exact',
  onMiss: 'blank',
};
const terms: LookupTable = {
  name: 'Terms',
  columns: [
    { name: 'terms', label: 'Terms', type: 'text', key: true },
    { name: 'code', label: 'Code', type: 'text', key: false },
    { name: 'days', label: 'Days', type: 'integer', key: false },
  ],
  rows: [
    ['prepaid', 'PRE', 0],
    ['net_14', 'D14', 14],
    ['net_30', 'D30', 30],
  ],
  matching: 'exact',
  onMiss: 'blank',
};

interface Company {
  readonly id: string;
  readonly name: string;
  readonly phone: string;
  readonly terms: string;
  readonly note: string | null;
  readonly crates: number;
  readonly weight: number;
  readonly street: string;
  readonly postcode: string;
  readonly town: string;
}

/** One target field: the formula that fills it, and the same by hand. */
interface Made {
  readonly type: 'text' | 'integer';
  readonly formula: string;
  readonly byHand: (company: Company, maps: Maps) => string | number | null;
}

interface Maps {
  readonly regions: ReadonlyMap<string, { readonly region: string; readonly desk: string }>;
  readonly terms: ReadonlyMap<string, { readonly code: string; readonly days: number }>;
}

const nfc = (text: string) => text.normalize('NFC');
const orNull = (text: string) => (text === '' ? null : text);
const trimmed = (text: string) => nfc(text).trim().replace(/ {2,}/g, ' ');
const text = (formula: string, byHand: Made['byHand']): Made => ({ type: 'text', formula, byHand });
const integer = (formula: string, byHand: Made['byHand']): Made => ({ type: 'integer', formula, byHand });

/** Ten kinds of line, as a mapping of thirty fields has them: copies, codes, joins, conditions, tables, sums. */
const kinds: readonly Made[] = [
  text('street', ({ street }) => orNull(nfc(street))),
  text('town', ({ town }) => orNull(nfc(town))),
  text('UPPER(LEFT(TRIM(name), 4))', ({ name }) => orNull(trimmed(name).slice(0, 4).toUpperCase())),
  text('TEXTJOIN(", ", TRUE, street, postcode, town)', ({ street, postcode, town }) =>
    orNull([street, postcode, town].filter(Boolean).join(', ').normalize('NFC')),
  ),
  text('IF(terms = "prepaid", "PRE", "ACC")', ({ terms: held }) => (nfc(held) === 'prepaid' ? 'PRE' : 'ACC')),
  text('SUBSTITUTE(phone, " ", "")', ({ phone }) => orNull(nfc(phone).replaceAll(' ', ''))),
  text('TABLE("Regions", town, "region")', ({ town }, maps) => maps.regions.get(nfc(town))?.region ?? null),
  text('TABLE("Terms", terms, "code")', ({ terms: held }, maps) => maps.terms.get(nfc(held))?.code ?? null),
  integer('crates + weight', ({ crates, weight }) => crates + weight),
  text('COALESCE(LOWER(note), "none")', ({ note }) => (note === null ? 'none' : nfc(note).toLowerCase())),
];

/** Thirty lines with tables over 10,000 records: the compiled ledger against a function written by hand. */
export async function benchThirtyLines(): Promise<readonly Figure[]> {
  const made = Array.from({ length: 30 }, (_none, at) => kinds[at % kinds.length] as Made);
  const target = made.map(({ type }, at): Field => ({
    name: `f${at}`,
    label: `f${at}`,
    type,
    ...(type === 'text' ? { maxLength: 120 } : { min: 0, max: 1_000_000 }),
  }));
  const compiled = compileRule(ruleOf(made), {
    catalog: new Catalog([systemOf(target)]),
    tables: new Map([regions, terms].map((table) => [table.name, new TableIndex(table)])),
  });
  if (!compiled.ok) throw new Error(compiled.problems[0]?.error.message);
  const lines = compiled.compiled.actions[0]?.lines ?? [];
  const companies = Array.from({ length: records }, (_none, at): Company => ({
    id: `C-${at}`,
    name: ` Gullpoint  Timber ${at}`,
    phone: `01632 960 ${String(at % 1000).padStart(3, '0')}`,
    terms: ['prepaid', 'net_14', 'net_30'][at % 3] ?? '',
    note: at % 5 === 0 ? null : `Ring ${at}`,
    crates: at % 90,
    weight: at % 7000,
    street: `${at % 80} Quay Road`,
    postcode: 'QS1 2SL',
    town: `Town ${at % 450}`,
  }));
  const held: JsonObject = Object.fromEntries(target.map(({ name }) => [name, null]));
  const maps: Maps = {
    regions: new Map(
      regions.rows.map(([town, region, desk]) => [
        String(town),
        { region: String(region), desk: String(desk) },
      ]),
    ),
    terms: new Map(
      terms.rows.map(([key, code, days]) => [String(key), { code: String(code), days: Number(days) }]),
    ),
  };
  const event: Env['event'] = {
    kind: 'updated',
    id: '',
    source: '',
    time: eventInstant('2026-03-09T09:00:00Z'),
  };
  const changed = new Set<string>();
  const found = { party: held };
  const edits = { ledger: 0, hand: 0 };
  const best = await bestTimes(
    {
      ledger: () => {
        edits.ledger = 0;
        for (const company of companies) {
          const record = company as unknown as JsonObject;
          const env: Env = { record, before: null, target: held, found, changed, event };
          edits.ledger += runLines(lines, held, { env }).edits.length;
        }
      },
      hand: () => {
        edits.hand = 0;
        for (const company of companies) edits.hand += editsByHand(company, made, target, held, maps).length;
      },
    },
    25,
  );
  if (edits.ledger !== edits.hand)
    throw new Error(`the ledger made ${edits.ledger} edits, by hand ${edits.hand}`);
  const ratio = best.ledger / best.hand;
  return [
    { what: 'ledger of 30 lines with tables, 10,000 records', value: best.ledger, unit: 'ms' },
    { what: 'the same by hand, tables as Maps', value: best.hand, unit: 'ms' },
    {
      what: 'ledger of 30 against by hand',
      value: ratio,
      unit: '×',
      wanted: 'at most 1.6',
      met: ratio <= 1.6,
    },
  ];
}

/** As a careful programmer writes it: blanks, lengths and ranges are looked at, and only what changes is written. */
function editsByHand(
  company: Company,
  made: readonly Made[],
  target: readonly Field[],
  held: JsonObject,
  maps: Maps,
): readonly { readonly path: string; readonly before: Json; readonly after: Json }[] {
  const edits: { path: string; before: Json; after: Json }[] = [];
  for (let at = 0; at < made.length; at++) {
    const after = made[at]?.byHand(company, maps) ?? null;
    const field = target[at];
    if (!field) continue;
    const { name, maxLength, min, max } = field;
    if (typeof after === 'string' && maxLength !== undefined && [...after].length > maxLength)
      throw new Error(`${name} is too long`);
    if (typeof after === 'number' && ((min ?? after) > after || (max ?? after) < after))
      throw new Error(`${name} is out of range`);
    const before = held[name] ?? null;
    if (before !== after) edits.push({ path: name, before, after });
  }
  return edits;
}

function systemOf(target: readonly Field[]): System {
  const names = ['id', 'name', 'phone', 'terms', 'note', 'street', 'postcode', 'town'];
  const source: Field[] = [
    ...names.map((name): Field => ({ name, label: name, type: 'text' })),
    { name: 'crates', label: 'crates', type: 'integer' },
    { name: 'weight', label: 'weight', type: 'integer' },
  ];
  const type = (name: string, fields: readonly Field[]) => ({
    name,
    label: name,
    plural: name,
    idField: 'id',
    nameField: 'id',
    fields,
  });
  const id: Field = { name: 'id', label: 'id', type: 'text' };
  return {
    key: 's',
    tag: 'SS',
    name: 'S',
    hue: 0,
    recordTypes: [type('company', source), type('party', [id, ...target])],
  };
}

function ruleOf(made: readonly Made[]): Rule {
  return {
    id: 'r',
    version: 1,
    name: 'bench',
    note: '',
    trigger: { system: 's', recordType: 'company', kinds: ['updated'], watched: [] },
    guard: '',
    finds: [
      {
        alias: 'party',
        system: 's',
        recordType: 'party',
        match: [{ field: 'id', is: 'equal', formula: 'id' }],
        none: 'stop',
        several: 'fail',
      },
    ],
    actions: [
      {
        kind: 'write',
        target: 'party',
        lines: made.map(({ formula }, at) => ({ field: `f${at}`, formula, policy: 'always' })),
      },
    ],
  };
}
