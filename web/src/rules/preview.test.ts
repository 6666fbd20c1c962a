import type { LookupTable, RuleBody, Sample, System } from '@vast-knot/core';
import { replay } from '../bench/replay';
import { findMistakes, withoutBrokenLines, withoutConditions } from './preview';

const text = (name: string) => ({ name, label: name, type: 'text' as const });
const system: System = {
  key: 's',
  tag: 'SS',
  name: 'S',
  hue: 1,
  recordTypes: [
    {
      name: 'ship',
      label: 'Ship',
      plural: 'Ships',
      idField: 'id',
      nameField: 'name',
      fields: ['id', 'name', 'code', 'port'].map(text),
    },
  ],
};
const tables: LookupTable[] = [];
const body = (guard: string, ...lines: [string, string][]): RuleBody => ({
  name: 'Code from name',
  note: '',
  trigger: { system: 's', recordType: 'ship', kinds: ['updated'], watched: ['port'] },
  guard,
  finds: [],
  actions: [
    {
      kind: 'write',
      target: 'record',
      lines: lines.map(([field, formula]) => ({ field, formula, policy: 'always' })),
    },
  ],
});
const ref = { system: 's', recordType: 'ship', id: 'V-1' };
const record = { id: 'V-1', name: 'Fulmar', code: 'OLD', port: 'QSNOR' };
const sample: Sample = {
  id: 'x',
  name: 'Fulmar renamed',
  note: '',
  event: {
    id: 'e',
    source: '/s',
    kind: 'updated',
    ref,
    time: '2026-03-09T09:00:00Z',
    record,
    before: { ...record, name: 'Gull' },
    changed: ['name'],
  },
  records: [{ ref, record }],
};

test('a draft without mistakes has none', () => {
  expect(findMistakes(body('name <> ""', ['code', 'UPPER(name)']), [system], tables).size).toBe(0);
});

test('each mistake stands where it was made', () => {
  const mistakes = findMistakes(
    body('nmae = "x"', ['code', 'UPPER(name)'], ['port', 'LEFT(']),
    [system],
    tables,
  );
  expect([...mistakes.keys()]).toEqual(['guard', 'actions/0/lines/1/formula']);
  expect(mistakes.get('guard')).toContain('Did you mean “name”?');
});

test('lines with mistakes are left out of what is computed, the others stay', () => {
  const draft = body('', ['code', 'UPPER(name)'], ['port', 'LEFT('], ['name', ' ']);
  const rest = withoutBrokenLines(draft, findMistakes(draft, [system], tables));
  expect(rest.actions[0]?.lines.map(({ field }) => field)).toEqual(['code']);
});

test('the ledger has values also for a sample that would not start the rule', async () => {
  const rule = { ...body('name = "Nobody"', ['code', 'UPPER(name)']), id: 'r', version: 0 };
  const asIs = await replay({ systems: [system], tables, rules: [rule], sample });
  expect(asIs.report.rules[0]).toMatchObject({ verdict: 'not watched' });
  expect(asIs.report.writes).toEqual([]);
  const forced = await replay({ systems: [system], tables, rules: [withoutConditions(rule)], sample });
  expect(forced.report.writes[0]?.edits).toEqual([{ path: 'code', before: 'OLD', after: 'FULMAR' }]);
});

test('a rule that does not compile does not take part, and says why', async () => {
  const rule = { ...body('', ['code', 'UPER(name)']), id: 'r', version: 0 };
  const { mistakes, report } = await replay({ systems: [system], tables, rules: [rule], sample });
  expect(report.rules).toEqual([]);
  expect(mistakes).toEqual([
    {
      rule: 'Code from name',
      problems: [
        { at: 'actions/0/lines/0/formula', message: 'There is no function UPER. Did you mean “UPPER”?' },
      ],
    },
  ]);
});
