/** Look-ups on a day, and what they say when they find nothing. */
import { TableIndex } from '../../table/tableIndex';
import type { LookupTable } from '../../table/table';
import { compile } from '../compile';
import { exampleScope } from '../testScope';
import { give, shown } from './testGive';

const rates: LookupTable = {
  name: 'Rates',
  columns: [
    { name: 'port', label: 'Port', type: 'text', key: true },
    { name: 'rate', label: 'Rate', type: 'decimal', key: false },
    { name: 'from', label: 'From', type: 'date', key: false },
    { name: 'to', label: 'To', type: 'date', key: false },
  ],
  validity: { from: 'from', to: 'to' },
  rows: [
    ['NOR', 10, null, '2025-12-31'],
    ['NOR', 12, '2026-01-01', '2026-02-28'],
    ['NOR', 13, '2026-04-01', null],
  ],
  matching: 'exact',
  onMiss: 'stop',
};
const scope = {
  ...exampleScope,
  tables: new Map([...exampleScope.tables, ['Rates', new TableIndex(rates)]]),
};
const problem = (source: string) => {
  const compiled = compile(source, scope);
  return compiled.ok ? undefined : compiled.errors[0]?.message;
};

test('a table with validity dates is asked for a day, or for that of the event', () => {
  expect(shown('TABLE("Rates", "NOR", "rate", DATE(2025, 6, 1))', scope)).toBe('10');
  expect(shown('TABLE("Rates", "NOR", "rate", since + 700)', scope)).toBe('12');
  expect(shown('TABLE("Rates", "NOR", "rate", DATE(2030, 1, 1))', scope)).toBe('13');
  expect(shown('TABLE("Rates", "NOR", "rate", before.since)', scope)).toBe('blank');
  expect(shown('INTABLE("Rates", "NOR")', scope)).toBe('FALSE');
  expect(shown('INTABLE("Rates", "NOR", DATE(2026, 1, 1))', scope)).toBe('TRUE');
  expect(shown('TABLEKEY("Rates", 12, "rate", DATE(2026, 1, 1))', scope)).toBe('NOR');
  expect(shown('TABLEKEY("Rates", 12, "rate", DATE(2026, 5, 1))', scope)).toBe('error: no row');
});

test('what found nothing says whether there is no row at all, or none on that day', () => {
  expect(give('TABLE("Rates", "NOR", "rate")', scope)).toMatchObject({
    message: 'The table “Rates” has a row for “NOR”, but none is valid on 9 March 2026.',
  });
  expect(give('TABLE("Rates", 12345678901234567890, "rate")', scope)).toMatchObject({
    message: 'The table “Rates” has no row for “12345678901234567890”.',
  });
  expect(give('TABLEKEY("Rates", 12, "rate")', scope)).toMatchObject({
    message: 'The table “Rates” has a row whose “rate” is “12”, but none is valid on 9 March 2026.',
  });
  expect(give('TABLEKEY("Rates", 99, "rate")', scope)).toMatchObject({
    message: 'The table “Rates” has no row whose “rate” is “99”.',
  });
});

test('a day that cannot be is refused where it stands', () => {
  expect(problem('TABLE("Ports to tariff zones", "NOR", "zone", TODAY())')).toBe(
    'The table “Ports to tariff zones” has no validity dates, so that no day can be asked for.',
  );
  expect(problem('TABLE("Rates", "NOR", "SKE", "rate")')).toBe(
    'The table “Rates” has 1 key column, and 2 keys are given.',
  );
  expect(give('TABLE("Rates", "NOR", "rate", NOW())', scope)).toMatchObject({
    message: 'The day is a date, and this is a date-time.',
  });
});
