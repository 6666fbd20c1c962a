import type { ChangeEvent } from '../model/event';
import type { RuleBody } from './rule';
import type { Action } from './actions';
import { ruleBodySchema } from './rule';
import { Catalog, type Field, type System } from '../model/system';
import { MemoryWorkspace } from '../workspace/memory';
import { compileRule } from './compileRule';
import { fieldsOf, recordAfter } from '../change/fields';
import { runEvent } from './run';

const text = (name: string, more: Partial<Field> = {}): Field => ({
  name,
  label: name,
  type: 'text',
  ...more,
});
const type = (name: string, ...fields: Field[]) => ({
  name,
  label: name,
  plural: `${name}s`,
  idField: 'id',
  nameField: 'title',
  fields: [text('id', { readOnly: true }), ...fields],
});
const system: System = {
  key: 'yard',
  tag: 'YD',
  name: 'Yard',
  hue: 1,
  recordTypes: [
    type('job', text('title'), text('state'), text('owner'), text('firstTask')),
    type('task', text('title', { required: true, maxLength: 12 }), text('owner'), {
      name: 'jobId',
      label: 'job',
      type: 'reference',
      refersTo: ['job'],
    }),
  ],
};
const catalog = new Catalog([system]);
const surroundings = { catalog, tables: new Map() };
const ref = (recordType: string, id: string) => ({ system: 'yard', recordType, id });
const job = { id: 'J1', title: 'Hull', state: 'in yard', owner: 'Runa', firstTask: null };
const event: ChangeEvent = {
  id: 'e1',
  source: '/yard',
  kind: 'updated',
  ref: ref('job', 'J1'),
  time: '2026-03-09T09:00:00Z',
  record: job,
  before: { ...job, state: 'at sea' },
  changed: ['state'],
};
const line = (field: string, formula: string) => ({ field, formula, policy: 'always' as const });
const create = (alias: string, title: string): Action => ({
  kind: 'create',
  alias,
  system: 'yard',
  recordType: 'task',
  lines: [line('title', title), line('owner', 'owner'), line('jobId', 'id')],
});
const body = (...actions: Action[]): RuleBody => ({
  name: 'Tasks of a job',
  note: '',
  trigger: { system: 'yard', recordType: 'job', kinds: ['updated'], watched: ['state'] },
  guard: '',
  finds: [],
  actions,
});
const run = async (...bodies: RuleBody[]) => {
  const rules = bodies.map((each, at) => {
    const result = compileRule({ ...each, id: `r${at}`, version: 1 }, surroundings);
    if (!result.ok) throw new Error(result.problems[0]?.error.message);
    return result.compiled;
  });
  const workspace = new MemoryWorkspace(catalog, [{ ref: ref('job', 'J1'), record: job }]);
  return (await runEvent(event, { catalog, rules, workspace })).report;
};

test('two records are created from one event, with a reference back', async () => {
  const { writes, rules } = await run(body(create('wash', '"Wash " & title'), create('paint', '"Paint"')));
  expect(rules[0]).toMatchObject({ verdict: 'writes', because: 'Writes 2 records.' });
  expect(writes.map((write) => [write.change.kind, recordAfter(write)])).toEqual([
    ['create', { title: 'Wash Hull', owner: 'Runa', jobId: 'J1' }],
    ['create', { title: 'Paint', owner: 'Runa', jobId: 'J1' }],
  ]);
  expect(new Set(writes.map(({ change }) => change.ref.id)).size).toBe(2);
});

test('a later action uses the id of a created record, and writes to it', async () => {
  const { writes } = await run(
    body(
      create('wash', '"Wash"'),
      { kind: 'write', target: 'record', lines: [line('firstTask', 'wash.id')] },
      { kind: 'write', target: 'wash', lines: [line('owner', '"Bram"')] },
    ),
  );
  const made = writes.find(({ change }) => change.kind === 'create');
  const changed = writes.find(({ change }) => change.kind === 'edit');
  expect(made && recordAfter(made)).toEqual({ title: 'Wash', owner: 'Bram', jobId: 'J1' });
  expect(changed && fieldsOf(changed.change)).toEqual([
    { path: 'firstTask', before: null, after: made?.change.ref.id },
  ]);
});

test('a record that lacks a required field is not created, and its sibling is', async () => {
  const { writes, rules } = await run(body(create('wash', 'firstTask'), create('paint', '"Paint"')));
  expect(writes.map((write) => recordAfter(write)?.['title'])).toEqual(['Paint']);
  expect(rules[0]?.because).toBe(
    'Writes 1 record; 1 line failed: The task is not created: title: “title” is required and would be left blank.',
  );
});

test('what needs a record that was not created is not written, least of all as blank', async () => {
  const { writes, rules } = await run(
    body(create('wash', 'firstTask'), create('rinse', '"Rinse" & wash.id'), {
      kind: 'write',
      target: 'record',
      lines: [line('firstTask', 'wash.id'), line('owner', '"Bram"')],
    }),
  );
  expect(writes.map(({ change }) => fieldsOf(change))).toEqual([
    [{ path: 'owner', before: 'Runa', after: 'Bram' }],
  ]);
  const steps = rules[0]?.steps.filter((step) => step.kind === 'write') ?? [];
  expect(steps.at(-1)?.lines.find(({ field }) => field === 'firstTask')?.because).toBe(
    '“wash” was not created.',
  );
});

test('a value that does not fit keeps the record from being created', async () => {
  const { writes, rules } = await run(body(create('wash', '"Much too long a title"')));
  expect(writes).toEqual([]);
  expect(rules[0]?.verdict).toBe('failed');
});

test('a created record starts the rules for new records of its type', async () => {
  const greeting: RuleBody = {
    ...body({ kind: 'write', target: 'record', lines: [line('owner', 'UPPER(owner)')] }),
    name: 'Loud owners',
    trigger: { system: 'yard', recordType: 'task', kinds: ['created'], watched: [] },
  };
  const { writes } = await run(body(create('wash', '"Wash"')), greeting);
  expect(writes.map((write) => [write.change.kind, recordAfter(write)?.['owner']])).toEqual([
    ['create', 'RUNA'],
  ]);
});

test('the same event gives the same plan each time', async () => {
  const twice = [await run(body(create('wash', '"Wash"'))), await run(body(create('wash', '"Wash"')))];
  expect(twice[0]?.writes).toEqual(twice[1]?.writes);
});

test('a rule that creates passes its schema; one that names no type or takes a taken alias does not', () => {
  expect(ruleBodySchema.validate(body(create('wash', '"Wash"'))).error).toBeUndefined();
  const { recordType: _type, ...without } = create('wash', '"Wash"') as Extract<Action, { kind: 'create' }>;
  expect(ruleBodySchema.validate({ ...body(), actions: [without] }).error?.message).toContain('recordType');
  expect(ruleBodySchema.validate(body(create('target', '"Wash"'))).error?.message).toBe(
    '"actions[0].alias" contains an invalid value',
  );
});
