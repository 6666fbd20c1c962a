import type { ChangeEvent } from '../model/event';
import type { RuleBody } from './rule';
import { Catalog, type Field, type System } from '../model/system';
import { MemoryWorkspace } from '../workspace/memory';
import { compileRule } from './compileRule';
import { previewLines, reachTargets } from './preview';

const text = (name: string): Field => ({ name, label: name, type: 'text' });
const type = (name: string, ...fields: Field[]) => ({
  name,
  label: name,
  plural: `${name}s`,
  idField: 'id',
  nameField: 'id',
  fields: [text('id'), ...fields],
});
const system: System = {
  key: 's',
  tag: 'SS',
  name: 'S',
  hue: 1,
  recordTypes: [
    type('ship', text('name'), text('port'), {
      name: 'master',
      label: 'master',
      type: 'reference',
      refersTo: ['person'],
    }),
    type('berth', text('ship'), text('label'), {
      name: 'keeper',
      label: 'keeper',
      type: 'reference',
      refersTo: ['person'],
    }),
    type('person', text('name')),
  ],
};
const catalog = new Catalog([system]);
const ref = (recordType: string, id: string) => ({ system: 's', recordType, id });
const ship = { id: 'V1', name: 'Fulmar', port: 'QSNOR', master: 'P1' };
const workspace = new MemoryWorkspace(catalog, [
  { ref: ref('ship', 'V1'), record: ship },
  { ref: ref('berth', 'B1'), record: { id: 'B1', ship: 'V1', label: 'old' } },
  { ref: ref('berth', 'B2'), record: { id: 'B2', ship: 'V1', label: 'FULMAR' } },
  { ref: ref('person', 'P1'), record: { id: 'P1', name: 'Runa Tulloch' } },
]);
const event: ChangeEvent = {
  id: 'e',
  source: '/s',
  kind: 'created',
  ref: ref('ship', 'V1'),
  time: '2026-03-09T09:00:00Z',
  record: ship,
  changed: [],
};
const body: RuleBody = {
  name: 'r',
  note: '',
  trigger: { system: 's', recordType: 'ship', kinds: ['updated'], watched: ['port'] },
  guard: 'name = "Nobody"',
  finds: [
    {
      alias: 'berth',
      system: 's',
      recordType: 'berth',
      match: [{ field: 'ship', is: 'equal', formula: 'id' }],
      none: 'stop',
      several: 'each',
    },
  ],
  actions: [
    {
      kind: 'write',
      target: 'berth',
      lines: [
        { field: 'label', formula: 'UPPER(name) & IF(master.name = "", "", "")', policy: 'always' },
        {
          field: 'keeper',
          formula: 'master.name',
          policy: 'always',
          reference: { recordType: 'person', field: 'name', none: 'fail', several: 'fail' },
        },
      ],
    },
  ],
};
const compiled = () => {
  const result = compileRule({ ...body, id: 'r', version: 0 }, { catalog, tables: new Map() });
  if (!result.ok) throw new Error(result.problems[0]?.error.message);
  return result.compiled;
};

test('records are reached for an event that neither the trigger nor the guard would let pass', async () => {
  const { targets } = await reachTargets(compiled(), event, workspace, catalog);
  expect(targets.get(0)?.map(({ target }) => target.ref.id)).toEqual(['B1', 'B2']);
});

test('lines are computed for one of the reached records, references and natural keys included', async () => {
  const rule = compiled();
  const { targets } = await reachTargets(rule, event, workspace, catalog);
  const [action] = rule.actions;
  if (!action) throw new Error('no action');
  const [second] = await previewLines(action, targets.get(0)?.slice(1) ?? [], workspace);
  expect(second?.reports).toMatchObject([
    { field: 'label', value: { json: 'FULMAR' }, verdict: 'same' },
    { field: 'keeper', value: { json: 'P1' }, verdict: 'changes' },
  ]);
});

test('what is missing says so instead of failing', async () => {
  const alone = new MemoryWorkspace(catalog, []);
  const { report, targets } = await reachTargets(compiled(), event, alone, catalog);
  expect(report.verdict).toBe('nothing found');
  expect(targets.get(0)).toBeUndefined();
});
