import type { Rule, RuleBody } from '../engine/rule';
import { find, line, rule, stored, surroundings, updated, write } from '../engine/testHarbour';
import { HistoryComparison } from './history';
import { ensemble } from './replay';

const noteOf = (formula: string): RuleBody =>
  rule([write('person', line('note', formula))], { finds: [find('person', 'company', 'id')] });
const made = (...bodies: readonly RuleBody[]) =>
  ensemble(
    bodies.map((body, at): Rule => ({ ...body, id: `r${at}`, version: 1 })),
    surroundings,
  );
const records = [stored('person', 'P1', { name: 'Runa', company: 'C1', note: null })];

test('events that come out the same count, and leave no group', async () => {
  const history = new HistoryComparison(made(noteOf('status')), made(noteOf('LOWER("OPEN")')), surroundings);
  await history.take('1', updated({ status: 'open' }, { status: 'new' }), records);
  expect(history.summary()).toEqual({ events: 1, differing: 0, groups: [] });
});

test('differences are grouped by kind, record type and field, counted, with the first few as examples', async () => {
  const then = made(
    noteOf('IF(status = "open", "yes", status)'),
    rule([write('record', line('code', '"A"'))]),
  );
  const history = new HistoryComparison(made(noteOf('status')), then, surroundings);
  for (let run = 1; run <= 7; run++)
    await history.take(String(run), updated({ status: 'open' }, { status: 'new' }), records);
  const { differing, groups } = history.summary();
  expect(differing).toBe(7);
  expect(groups.map(({ kind, about, path, count }) => [kind, about, path, count])).toEqual([
    ['another value', 'book/person', 'note', 7],
    ['only then', 'book/company', 'code', 7],
  ]);
  expect(groups[0]?.examples).toHaveLength(5);
  expect(groups[0]?.examples[0]).toEqual({ run: '1', key: 'book/person/P1', now: 'open', then: 'yes' });
});

test('what the second rules no longer do is told as well', async () => {
  const history = new HistoryComparison(made(noteOf('status')), made(), surroundings);
  await history.take('1', updated({ status: 'open' }, { status: 'new' }), records);
  expect(history.summary().groups).toMatchObject([{ kind: 'no longer', path: 'note', count: 1 }]);
});
