/** Where a rule looks a table up, and with which keys: also when it asks for a day, and in every part of a list that is gone through. */
import { TableIndex } from '../table/tableIndex';
import { compileRule } from './compileRule';
import { tableUses } from './tableUses';
import { line, rule, surroundings, write } from './testHarbour';

const rates = new TableIndex({
  name: 'Rates',
  columns: [
    { name: 'code', label: 'Code', type: 'text', key: true },
    { name: 'rate', label: 'Rate', type: 'text', key: false },
    { name: 'from', label: 'From', type: 'date', key: false },
    { name: 'to', label: 'To', type: 'date', key: false },
  ],
  validity: { from: 'from', to: 'to' },
  rows: [['AB', 'x', null, null]],
  matching: 'exact',
  onMiss: 'blank',
});

/** The keys that a record leads to in each use of the table by a formula. */
function keysIn(formula: string, trigger: string, record: Record<string, never>) {
  const of = rule([write('record', line('name', formula))], {
    trigger: { system: 'book', recordType: trigger, kinds: ['updated'], watched: [] },
  });
  const result = compileRule(
    { ...of, id: 'r', version: 1 },
    { ...surroundings, tables: new Map([['Rates', rates]]) },
  );
  if (!result.ok) throw new Error(result.problems.map(({ error }) => error.message).join(' '));
  return tableUses(result.compiled, rates).map((use) => use.keysOf(record));
}

test('the day that is asked for is no key', () => {
  const company = { id: 'C1', code: 'AB', since: '2026-03-09' } as never;
  expect(keysIn('TABLE("Rates", code, "rate", since)', 'company', company)).toEqual([[['AB']]]);
  expect(keysIn('IF(INTABLE("Rates", code, since), "yes")', 'company', company)).toEqual([[['AB']]]);
});

test('each element of a list leads to a key, in the condition of FIRST as in what it gives', () => {
  const order = {
    id: 'O1',
    lines: [
      { no: 1, goods: 'Nets' },
      { no: 2, goods: 'Rope' },
    ],
  } as never;
  const formula = 'FIRST(lines, INTABLE("Rates", item.goods), TABLE("Rates", item.goods, "rate"))';
  expect(keysIn(formula, 'order', order)).toEqual([
    [['Nets'], ['Rope']],
    [['Nets'], ['Rope']],
  ]);
});
