import { company, line, party, ruleWith, surroundings } from '../../work/testWorld';
import { columnOf } from './columnOf';
import { holdsValue } from './holdsValue';
import { mostMade, sourcesOf } from './useMakeSamples';

const rule = ruleWith([line('zone', 'TABLE("Zones", town, "zone")')]);
const records = [
  // A record of another type may have the id of a triggering one.
  party('C1', 'C1', { zone: 'N1' }),
  company('C1', 'Fish', 'Murrow'),
  company('C2', 'Salt', 'Northport'),
  party('P2', 'C2', { zone: 'N1' }),
  company('C3', 'Wool', 'Nowhere'),
];
const column = columnOf(
  { rule, action: 0, field: 'zone', records, time: '2026-03-09T09:00:00Z' },
  surroundings,
);

test('rows are found by what went in, what it would be, what is there, and why there is nothing', async () => {
  const { rows } = await column;
  const found = (text: string) => rows.filter((row) => holdsValue(row, text)).map(({ source }) => source);
  expect(found('murrow')).toEqual(['C1']);
  expect(found('s1')).toEqual(['C1']);
  expect(found('n1')).toEqual(['C1', 'C2']);
  expect(found('salt')).toEqual(['C2']);
  expect(found('no party was found')).toEqual(['C3']);
  expect(found('')).toHaveLength(3);
});

test('the triggering records of rows are taken once each, of their own type, and not too many', async () => {
  const { rows } = await column;
  const sources = sourcesOf(rule.trigger, [...rows, ...rows], records);
  expect(sources.map(({ ref }) => `${ref.system} ${ref.id}`)).toEqual(['book C1', 'book C2', 'book C3']);
  const many = Array.from({ length: 30 }, (_none, at) => company(`X${at}`, 'x', 'y'));
  const all = many.map(({ ref }) => ({
    source: ref.id,
    sourceName: '',
    target: null,
    because: null,
    inputs: [],
    report: null,
  }));
  expect(sourcesOf(rule.trigger, all, many)).toHaveLength(mostMade);
});
