import type { RuleBody, RuleView, SystemView } from '@vast-knot/core';
import {
  fits,
  listedRules,
  listLines,
  movedTo,
  noFolder,
  sorted,
  type ListedRule,
  type RuleFilter,
} from './ruleList';

const field = (name: string, label: string) => ({ name, label, type: 'text' as const });
const systems = [
  {
    key: 'book',
    tag: 'CB',
    name: 'Customer Book',
    hue: 1,
    recordTypes: [
      {
        name: 'company',
        label: 'Company',
        plural: 'Companies',
        idField: 'id',
        nameField: 'name',
        fields: [field('name', 'Name'), field('phone', 'Telephone')],
      },
    ],
  },
  {
    key: 'desk',
    tag: 'FD',
    name: 'Freight Desk',
    hue: 2,
    recordTypes: [
      {
        name: 'party',
        label: 'Party',
        plural: 'Parties',
        idField: 'id',
        nameField: 'name',
        fields: [field('zone', 'Tariff zone')],
      },
    ],
  },
] as unknown as readonly SystemView[];

const body = (name: string, more: Partial<RuleBody> = {}): RuleBody => ({
  name,
  note: '',
  trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['phone'] },
  guard: '',
  finds: [],
  actions: [{ kind: 'write', target: 'record', lines: [] }],
  ...more,
});
const rule = (id: string, draft: RuleBody, more: Partial<RuleView> = {}): RuleView => ({
  id,
  draft,
  revision: 1,
  published: null,
  folder: '',
  changedAt: '2026-03-09T10:00:00Z',
  changedBy: null,
  paused: null,
  asked: null,
  ...more,
});
const runs = (draft: RuleBody, by = 'Ines') => ({
  version: 1,
  body: draft,
  by,
  at: '2026-03-09T09:00:00Z',
  note: 'Asked for by the port.',
});
const zone = body('Zone of a party', {
  trigger: { system: 'desk', recordType: 'party', kinds: ['created'], watched: [] },
  actions: [
    {
      kind: 'write',
      target: 'record',
      lines: [{ field: 'zone', formula: 'TABLE("Port zones", port, "zone")', policy: 'always' }],
    },
  ],
});
const all = listedRules({
  rules: [
    rule('a', body('Phone to people'), { published: runs(body('Phone to people')), folder: 'Contacts' }),
    rule('b', zone, { changedBy: 'Mara' }),
    rule('c', body('Apples'), {
      published: runs(body('Older')),
      paused: { by: 'Oda', at: '2026-03-09T10:00:00Z' },
    }),
    rule('d', body('Bare'), {
      published: runs(body('Bare before'), 'Mara'),
      changedAt: '2026-03-10T10:00:00Z',
    }),
  ],
  systems,
  findings: [{ id: 'b', findings: [{ severity: 'error' }, { severity: 'warning' }] as never }],
  deeds: [{ id: 'd', last: { run: '9', at: '2026-03-10T11:00:00Z' }, failed: 3 }],
});
const none: RuleFilter = { search: '', system: '', type: '', state: '', findings: '', who: '', folder: '' };
const ids = (listed: readonly ListedRule[]) => listed.map(({ rule: { id } }) => id).join('');
const through = (filter: Partial<RuleFilter>) =>
  ids(all.filter((each) => fits(each, { ...none, ...filter })));

test.each([
  ['its name', 'phone to peo', 'a'],
  ['words of it in any order', 'people phone', 'a'],
  ['the label of a field that it watches', 'telephone', 'acd'],
  ['the API name of a field that it writes', 'zone', 'b'],
  ['a table that it reads', 'port zones', 'b'],
  ['its system', 'freight', 'b'],
  ['what was said when it was published', 'asked for', 'acd'],
  ['its folder', 'contacts', 'a'],
  ['nothing that it has', 'phone zone', ''],
])('a rule is found by %s', (_what, search, found) => {
  expect(through({ search })).toBe(found);
});

test('the list is narrowed by system, record type, state, findings, person and folder', () => {
  expect(through({ system: 'desk' })).toBe('b');
  expect(through({ type: 'book/company' })).toBe('acd');
  expect(through({ state: 'running' })).toBe('acd');
  expect(through({ state: 'differs' })).toBe('d');
  expect(through({ state: 'draft' })).toBe('b');
  expect(through({ state: 'paused' })).toBe('c');
  expect(through({ findings: 'errors' })).toBe('b');
  expect(through({ findings: 'none' })).toBe('acd');
  expect(through({ who: 'Mara' })).toBe('bd');
  expect(through({ folder: 'Contacts' })).toBe('a');
  expect(through({ folder: noFolder })).toBe('bcd');
});

test('what is more pressing comes first, equal ones stay in their order, and once more is the other way round', () => {
  expect(ids(sorted(all, 'name', false))).toBe('cdab');
  expect(ids(sorted(all, 'findings', false))).toBe('bacd');
  expect(ids(sorted(all, 'last', false))).toBe('dabc');
  expect(ids(sorted(all, 'failed', true))).toBe('abcd');
  expect(ids(sorted(all, 'changed', false))).toBe('dabc');
  expect(ids(sorted(all, 'state', false))).toBe('cdba');
  expect(ids(sorted(all, undefined, true))).toBe('abcd');
});

test('rules stand together by folder, system or record type; those in no folder come last', () => {
  const groups = (by: 'folder' | 'system' | 'type') =>
    listLines(all, by, systems).map((line) =>
      line.kind === 'group'
        ? `${line.name} ${line.count}${line.ordered ? ' ordered' : ''}:`
        : line.listed.rule.id,
    );
  expect(groups('folder')).toEqual(['Contacts 1:', 'a', 'In no folder 3:', 'b', 'c', 'd']);
  expect(groups('system')).toEqual(['Customer Book 3:', 'a', 'c', 'd', 'Freight Desk 1:', 'b']);
  expect(groups('type')).toEqual([
    'Company in Customer Book 3 ordered:',
    'a',
    'c',
    'd',
    'Party in Freight Desk 1:',
    'b',
  ]);
});

test('order is told only among rules of one record type, and moving one names these alone', () => {
  expect(all.map(({ place }) => place)).toEqual([
    { at: 1, of: 3 },
    undefined,
    { at: 2, of: 3 },
    { at: 3, of: 3 },
  ]);
  expect(movedTo(all, 'd', 1)).toEqual(['d', 'a', 'c']);
  expect(movedTo(all, 'a', 2)).toEqual(['c', 'a', 'd']);
  expect(movedTo(all, 'a', 99)).toEqual(['c', 'd', 'a']);
  expect(movedTo(all, 'c', -4)).toEqual(['c', 'a', 'd']);
});
