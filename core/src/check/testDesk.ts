import { applyFix, type Finding } from './finding';
import { checkRule } from './index';
import { compileRule } from '../engine/compileRule';
import type { Surroundings } from '../engine/surroundings';
import { Catalog, type Field, type System } from '../model/system';
import type { Rule } from '../engine/rule';
import type { Action } from '../engine/actions';
import type { MappingLine } from '../engine/actions/mappingLine';
import { TableIndex } from '../table/tableIndex';
import type { LookupTable } from '../table/table';

const options = (...values: string[]) => values.map((value) => ({ value, label: value }));

const companyFields: readonly Field[] = [
  { name: 'id', label: 'Id', type: 'text', readOnly: true, maxLength: 12 },
  { name: 'name', label: 'Name', type: 'text', required: true, maxLength: 80 },
  { name: 'phone', label: 'Phone', type: 'text', maxLength: 40, sensitivity: 'personal' },
  { name: 'pin', label: 'PIN', type: 'text', maxLength: 4, sensitivity: 'secret' },
  { name: 'status', label: 'Status', type: 'choice', options: options('active', 'dormant') },
  { name: 'credit', label: 'Credit', type: 'decimal' },
  { name: 'crates', label: 'Crates', type: 'integer' },
  { name: 'since', label: 'Since', type: 'date' },
  { name: 'seen', label: 'Seen', type: 'datetime' },
  { name: 'labels', label: 'Labels', type: 'multichoice', options: options('frozen', 'fragile') },
  {
    name: 'crew',
    label: 'Crew',
    type: 'list',
    fields: [
      { name: 'who', label: 'Who', type: 'text', sensitivity: 'personal' },
      { name: 'task', label: 'Task', type: 'text' },
      { name: 'hours', label: 'Hours', type: 'integer' },
    ],
  },
];
const partyFields: readonly Field[] = [
  { name: 'id', label: 'Id', type: 'text', readOnly: true },
  { name: 'number', label: 'Number', type: 'text', maxLength: 12 },
  { name: 'title', label: 'Title', type: 'text', required: true, maxLength: 60 },
  { name: 'zone', label: 'Zone', type: 'text', maxLength: 3 },
  { name: 'state', label: 'State', type: 'choice', options: options('active', 'dormant', 'closed') },
  { name: 'rank', label: 'Rank', type: 'integer', min: 1, max: 9 },
  { name: 'joined', label: 'Joined', type: 'date' },
  { name: 'codes', label: 'Codes', type: 'multichoice', options: options('FRZ', 'FRG') },
  { name: 'agent', label: 'Agent', type: 'reference', refersTo: ['party'] },
  { name: 'ownerPhone', label: 'Owner phone', type: 'text', maxLength: 40, sensitivity: 'personal' },
  {
    name: 'shifts',
    label: 'Shifts',
    type: 'list',
    fields: [
      { name: 'task', label: 'Task', type: 'text', required: true },
      { name: 'hours', label: 'Hours', type: 'integer' },
      {
        name: 'gear',
        label: 'Gear',
        type: 'object',
        fields: [{ name: 'size', label: 'Size', type: 'text' }],
      },
    ],
  },
  { name: 'rev', label: 'Revision', type: 'integer', readOnly: true, keptBySystem: true },
];
const system = (key: string, tag: string, name: string, type: string, fields: readonly Field[]): System => ({
  key,
  tag,
  name,
  hue: 0,
  recordTypes: [
    {
      name: type,
      label: type,
      plural: `${type}s`,
      idField: 'id',
      nameField: fields === partyFields ? 'title' : 'name',
      fields,
    },
  ],
});
const labels: LookupTable = {
  name: 'Labels to codes',
  columns: [
    { name: 'label', label: 'Label', type: 'text', key: true },
    { name: 'code', label: 'Code', type: 'text', key: false },
  ],
  rows: [['frozen', 'FRZ']],
  matching: 'exact',
  onMiss: 'blank',
};
export const surroundings: Surroundings = {
  catalog: new Catalog([
    system('book', 'BK', 'Book', 'company', companyFields),
    system('desk', 'DK', 'Desk', 'party', partyFields),
  ]),
  tables: new Map([[labels.name, new TableIndex(labels)]]),
};

export const line = (
  field: string,
  formula: string,
  policy: MappingLine['policy'] = 'value present',
): MappingLine => ({
  field,
  formula,
  policy,
});

export function rule(lines: readonly MappingLine[], change: Partial<Rule> = {}): Rule {
  return {
    id: 'r1',
    version: 0,
    name: 'Company to party',
    note: '',
    trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: [] },
    guard: '',
    finds: [
      {
        alias: 'party',
        system: 'desk',
        recordType: 'party',
        match: [{ field: 'number', is: 'equal', formula: 'id' }],
        none: 'stop',
        several: 'fail',
      },
    ],
    actions: [{ kind: 'write', target: 'party', lines }],
    ...change,
  };
}

export const find = (subject: Rule, others: readonly Rule[] = []): readonly Finding[] =>
  checkRule(
    subject,
    surroundings,
    others.flatMap((other) => {
      const result = compileRule(other, surroundings);
      return result.ok ? [result.compiled] : [];
    }),
  );

/** The findings of one kind, as severity and sentence. */
export const said = (subject: Rule, kind: string, others: readonly Rule[] = []) =>
  find(subject, others)
    .filter((finding) => finding.kind === kind)
    .map(({ severity, message }) => `${severity}: ${message}`);

/** Presses the fix of the first finding of a kind and gives the rule after it. */
export function mended(subject: Rule, kind: string): Rule {
  const fix = find(subject).find((finding) => finding.kind === kind)?.fix;
  if (!fix) throw new Error(`no fix for ${kind}`);
  return { ...applyFix(subject, fix), id: subject.id, version: 0 };
}

/** Returns a rule that starts when one of these fields of a company is updated. */
export const watching = (watched: readonly string[], lines: readonly MappingLine[]) =>
  rule(lines, { trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched } });

/** Returns a rule whose one action creates a party from these lines. */
export function creating(lines: readonly MappingLine[], change: Partial<Rule> = {}): Rule {
  const create: Action = { kind: 'create', alias: 'made', system: 'desk', recordType: 'party', lines };
  return rule([], { finds: [], actions: [create], ...change });
}
