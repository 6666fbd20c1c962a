import { exampleEnv, exampleScope } from '../formula/testScope';
import type { Scope } from '../formula/scope';
import type { Field } from '../model/system';
import { TableIndex } from '../table/tableIndex';
import { nameSimilarity } from './similarity';
import { suggestLines, type Evidence } from './suggest';

const target: readonly Field[] = [
  { name: 'id', label: 'Id', type: 'text', readOnly: true },
  { name: 'displayName', label: 'Display name', type: 'text' },
  { name: 'phoneNumber', label: 'Phone number', type: 'text' },
  { name: 'zone', label: 'Zone', type: 'text' },
  { name: 'remarks', label: 'Remarks', type: 'text' },
  { name: 'since', label: 'Since', type: 'date' },
];
const scope: Scope = { ...exampleScope, found: new Map(), target };
const evidence: readonly Evidence[] = ['NOR', 'nor', 'NOR'].map((port) => ({
  env: { ...exampleEnv, record: { ...exampleEnv.record, 'Home Port': port } },
  target: { phoneNumber: '+441632960120', zone: 'N2', remarks: 'left of the gate' },
}));
const formulas = (of: readonly Evidence[]) =>
  Object.fromEntries(suggestLines(scope, new Set(), of).map(({ field, formula }) => [field, formula]));

test('names are compared by their words, however they are written', () => {
  expect(nameSimilarity('customer_since', 'customerSince')).toBe(1);
  expect(nameSimilarity('Phone', 'phoneNumber')).toBeGreaterThan(0.6);
  expect(nameSimilarity('town', 'currency')).toBe(0);
});

test('names alone suggest fields of like name, and nothing for a field that has no like', () => {
  expect(formulas([])).toEqual({ displayName: 'name', phoneNumber: 'phone', since: 'since' });
});

test('values that stand on both sides now suggest how they are turned, through tables too', () => {
  expect(formulas(evidence)).toMatchObject({
    phoneNumber: 'PHONE(phone, "GB")',
    zone: 'TABLE("Ports to tariff zones", \'Home Port\', "zone")',
  });
  expect(formulas(evidence)).not.toHaveProperty('remarks');
});

test('what a table gives for keys that it does not have is no evidence', () => {
  const always = new TableIndex({
    name: 'Desks',
    columns: [
      { name: 'port', label: 'Port', type: 'text', key: true },
      { name: 'desk', label: 'Desk', type: 'text', key: false },
    ],
    rows: [['ELSEWHERE', 'South']],
    matching: 'exact',
    onMiss: 'default',
    defaultRow: [null, 'left of the gate'],
  });
  const found = suggestLines({ ...scope, tables: new Map([['Desks', always]]) }, new Set(), evidence);
  expect(found.map(({ field }) => field)).not.toContain('remarks');
});

test('a suggestion says how sure it is and why', () => {
  const [first] = suggestLines(scope, new Set(), evidence);
  expect(first).toMatchObject({ field: 'since', confidence: 0.95, because: 'same name' });
  const zone = suggestLines(scope, new Set(), evidence).find(({ field }) => field === 'zone');
  expect(zone?.because).toBe('through “Ports to tariff zones”, 3 of 3 values the same');
});

test('fields that have a line, and those that cannot be written, get none', () => {
  expect(suggestLines(scope, new Set(['displayName', 'phoneNumber', 'since']), [])).toEqual([]);
});

test('two equal record types are mapped whole', () => {
  const fields = exampleScope.record.filter(({ readOnly }) => !readOnly);
  const all = suggestLines({ ...exampleScope, found: new Map(), target: fields }, new Set(), []);
  expect(all.every(({ confidence }) => confidence >= 0.95)).toBe(true);
  expect(Object.fromEntries(all.map(({ field, formula }) => [field, formula]))).toEqual({
    name: 'name',
    phone: 'phone',
    credit: 'credit',
    crates: 'crates',
    since: 'since',
    seen: 'seen',
    status: 'status',
    'address.town': 'address.town',
    'address.country': 'address.country',
    'Home Port': "'Home Port'",
  });
});
