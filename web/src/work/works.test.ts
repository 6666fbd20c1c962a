import { columnOf } from '../rules/column/columnOf';
import { verdictOf } from '../rules/column/columnVerdict';
import { neededTypes } from '../rules/column/neededTypes';
import { findingsOf } from '../rules/findings/findingsOf';
import { suggestionsFor } from '../rules/ledger/suggestionsFor';
import { replay } from '../bench/replay';
import { known, line, company, party, person, ruleWith, sample, surroundings } from './testWorld';
import { surroundingsOf } from './known';

test('tables are made ready once for what is known', () => {
  expect(surroundingsOf(known)).toBe(surroundings);
  expect(surroundingsOf({ ...known })).not.toBe(surroundings);
});

describe('a replay', () => {
  test('gives the records as they would be', async () => {
    const rules = [ruleWith([line('zone', 'TABLE("Zones", town, "zone")')])];
    const { report, mistakes } = await replay({ rules, sample }, surroundings);
    expect(mistakes).toEqual([]);
    expect(report.writes[0]?.change).toMatchObject({
      edits: [{ path: 'zone', before: 'N1', after: 'S1' }],
    });
  });

  test('leaves a rule with a mistake out, and says why', async () => {
    const { report, mistakes } = await replay(
      { rules: [ruleWith([line('zone', 'UPER(town)')])], sample },
      surroundings,
    );
    expect(report.rules).toEqual([]);
    expect(mistakes[0]?.problems[0]?.message).toBe('There is no function UPER. Did you mean “UPPER”?');
  });
});

test('a draft is held against the other rules', () => {
  const rule = ruleWith([line('zone', 'TABLE("Zones", chief, "zone")')]);
  const other = ruleWith([line('zone', 'town')], { id: 'o', name: 'Zone by town' });
  const found = findingsOf({ rule, others: [other], running: [other] }, surroundings).map(({ kind }) => kind);
  expect(found).toEqual(expect.arrayContaining(['unwatched field', 'rival rule']));
});

test('a draft of another rule does not compete while it does not run', () => {
  const rule = ruleWith([line('zone', 'town')]);
  const other = ruleWith([line('zone', 'town')], { id: 'o', name: 'Zone by town' });
  const kinds = (running: readonly (typeof other)[]) =>
    findingsOf({ rule, others: [other], running }, surroundings).map(({ kind }) => kind);
  expect(kinds([])).not.toContain('rival rule');
  expect(kinds([other])).toContain('rival rule');
});

describe('suggestions', () => {
  test('look at what stood on both sides before the change', async () => {
    const suggestions = await suggestionsFor(
      { rule: ruleWith([]), action: 0, samples: [sample, sample, sample] },
      surroundings,
    );
    expect(suggestions.find(({ field }) => field === 'zone')?.formula).toBe('TABLE("Zones", town, "zone")');
    expect(suggestions.find(({ field }) => field === 'name')?.formula).toBe('name');
  });

  test('never fill a target from itself, and leave fields with a line alone', async () => {
    const suggestions = await suggestionsFor(
      { rule: ruleWith([line('name', 'name')]), action: 0, samples: [sample] },
      surroundings,
    );
    expect(suggestions.map(({ field, formula }) => [field, formula])).toEqual([['chief', 'chief']]);
  });
});

describe('one line over many records', () => {
  const records = [
    company('C1', 'Fish', 'Murrow'),
    company('C2', 'Long Name Of A Firm', 'Northport'),
    company('C3', 'Nobody', 'Murrow'),
    company('C4', 'Lost', 'Nowhere'),
    party('P1', 'C1', { zone: 'S1' }),
    party('P2', 'C2', {}),
    party('P4', 'C4', {}),
    person('H1', 'Runa'),
  ];
  const columnFor = (formula: string, field = 'zone', more = {}) =>
    columnOf(
      {
        rule: ruleWith([line(field, formula, more)]),
        action: 0,
        field,
        records,
        time: '2026-03-09T09:00:00Z',
      },
      surroundings,
    );

  test('says of each what went in, what it would be, and why not', async () => {
    const { uses, rows } = await columnFor('TABLE("Zones", town, "zone")');
    expect(uses).toEqual(['town']);
    expect(rows.map((row) => [row.source, row.target, row.inputs[0], verdictOf(row)])).toEqual([
      ['C1', 'P1', 'Murrow', 'same'],
      ['C2', 'P2', 'Northport', 'changes'],
      ['C3', null, 'Murrow', 'not reached'],
      ['C4', 'P4', 'Nowhere', 'error'],
    ]);
    expect(rows[2]?.because).toBe('No party was found for “party”.');
    expect(rows[3]?.report?.because).toBe('The table “Zones” has no row for “Nowhere”.');
  });

  test('names a value that is too long for its target', async () => {
    const { rows } = await columnFor('name', 'name');
    expect(rows.find(({ source }) => source === 'C2')?.report).toMatchObject({ verdict: 'error' });
  });

  test('looks up natural keys', async () => {
    const reference = { recordType: 'person', field: 'name', none: 'fail', several: 'fail' };
    const { rows } = await columnFor('chief', 'chief', { reference });
    expect(rows[0]?.report?.value).toEqual({ json: 'H1' });
  });

  test('needs the records of the types that its finds and keys lead to', () => {
    const reference = { recordType: 'person', field: 'name', none: 'fail', several: 'fail' } as const;
    const rule = ruleWith([line('chief', 'chief', { reference }), line('name', 'name')]);
    expect(neededTypes(rule, 0, 'chief', surroundings)).toEqual([
      'book/company',
      'desk/party',
      'desk/person',
    ]);
    expect(neededTypes(rule, 0, 'name', surroundings)).toEqual(['book/company', 'desk/party']);
  });

  test('is empty for a line that has a mistake', async () => {
    expect(await columnFor('twon')).toEqual({ uses: [], rows: [] });
  });
});
