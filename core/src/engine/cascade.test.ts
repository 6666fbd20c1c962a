import { cascadeOf, type CascadeRecord } from './cascade';
import { line, people, reached, rule, run, updated, write } from './testHarbour';

/** A tree of records and rules, as lines that are set in by what led to them. */
function lines({ ref, write: how, rules }: CascadeRecord, depth = 0): readonly string[] {
  const at = '  '.repeat(depth);
  return [
    `${at}${ref.recordType} ${ref.id}${how ? ` ${how.change.kind}` : ''}`,
    ...rules.flatMap(({ report, records }) => [
      `${at}  ${report.ruleId}: ${report.verdict}`,
      ...records.flatMap((record) => lines(record, depth + 2)),
    ]),
  ];
}

const toPeople = rule([write('person', line('note', 'name'))], reached);
const ofPerson = rule([write('record', line('status', '"told"'))], {
  trigger: { system: 'book', recordType: 'person', kinds: ['updated'], watched: ['note'] },
});
const event = updated({ name: 'Skerry' }, { name: 'S' });

test('what led to what is a tree: the record, the rules that it started, what they wrote, what that started', async () => {
  const { rules, writes } = await run(event, [toPeople, ofPerson], people);
  const each = people.map(({ ref: { id } }) => [`    person ${id} edit`, '      r1: writes']);
  expect(lines(cascadeOf({ event, rules }, writes))).toEqual([
    `company ${event.ref.id}`,
    '  r0: writes',
    ...each.flat(),
  ]);
});

test('a record that two rules wrote stands once, and what did not start is left out', async () => {
  const again = rule([write('person', line('status', 'name'))], reached);
  const never = rule([write('person', line('note', 'name'))], {
    ...reached,
    trigger: { system: 'book', recordType: 'company', kinds: ['created'], watched: [] },
  });
  const { rules, writes } = await run(event, [toPeople, again, never], people);
  const tree = cascadeOf({ event, rules }, writes);
  expect(tree.rules.map(({ report: { ruleId }, records }) => [ruleId, records.length])).toEqual([
    ['r0', people.length],
    ['r1', 0],
  ]);
});

test('what a created record started stands below it, also once its system has given it an id', async () => {
  const makes = rule([
    {
      kind: 'create',
      alias: 'job',
      system: 'desk',
      recordType: 'job',
      lines: [line('name', 'name')],
    },
  ]);
  const ofJob = rule([write('record', line('owner', '"Mara"'))], {
    trigger: { system: 'desk', recordType: 'job', kinds: ['created'], watched: [] },
  });
  const { rules, writes } = await run(event, [makes, ofJob]);
  const given = writes.map((planned) => ({
    ...planned,
    plannedId: planned.change.ref.id,
    change: { ...planned.change, ref: { ...planned.change.ref, id: 'J-77' } },
  }));
  expect(lines(cascadeOf({ event, rules }, given))).toEqual([
    `company ${event.ref.id}`,
    '  r0: writes',
    '    job J-77 create',
    '      r1: writes',
  ]);
});
