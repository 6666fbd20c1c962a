import fc from 'fast-check';
import {
  Catalog,
  compileRule,
  fieldsOf,
  MemoryWorkspace,
  ownDefinition,
  ownSystem,
  readPath,
  runEvent,
  type Action,
  type Find,
  type PlannedWrite,
  type Rule,
  type RuleBody,
  type RuleView,
  type Sample,
  type SystemView,
} from '@vast-knot/core';
import { World } from './harness';

jest.setTimeout(180_000);
let world: World;
beforeAll(async () => {
  world = await World.start();
});
afterAll(() => world.stop());

let published: Rule[] = [];
afterEach(async () => {
  for (const { id } of published) await world.api('DELETE', `/rules/${id}/published`);
  published = [];
});

/** Rules over parties of every kind of action, drawn at random; what they write fits its fields. */
const text = fc.constantFrom('UPPER(LEFT(name, 8))', '"seen"', 'town', 'LEFT(deskNote & name, 9)', '""');
const line = (field: string) => text.map((formula) => ({ field, formula, policy: 'always' as const }));
const lines = fc.uniqueArray(fc.constantFrom('town', 'street', 'postcode').chain(line), {
  selector: ({ field }) => field,
  minLength: 1,
  maxLength: 2,
});
const contacts: Find = {
  alias: 'contact',
  system: 'freight-desk',
  recordType: 'contact',
  match: [{ field: 'partyId', is: 'equal', formula: 'id' }],
  none: 'go on',
  several: 'each',
};
const action: fc.Arbitrary<Action> = fc.oneof(
  lines.map((written): Action => ({ kind: 'write', target: 'record', lines: written })),
  line('fullName').map(({ formula }): Action => ({
    kind: 'write',
    target: 'contact',
    lines: [{ field: 'fullName', formula: `target.fullName & " " & LEFT(${formula}, 3)`, policy: 'always' }],
  })),
  text.map((formula): Action => ({
    kind: 'create',
    alias: 'made',
    system: 'freight-desk',
    recordType: 'contact',
    lines: [
      { field: 'partyId', formula: 'id', policy: 'always' },
      { field: 'fullName', formula: `"New " & ${formula}`, policy: 'always' },
    ],
  })),
  fc.constant<Action>({
    kind: 'tidy',
    target: 'record',
    steps: [
      { do: 'clean', field: 'name', how: 'upper case' },
      { do: 'set when absent', field: 'postcode', formula: '"none"' },
    ],
  }),
  fc.constant<Action>({ kind: 'remove', target: 'contact', only: 'RIGHT(target.fullName, 3) = "see"' }),
);
const rules = fc.array(
  fc.record({
    guard: fc.constantFrom('', 'NOT(ISBLANK(deskNote))', 'CHANGED(deskNote)'),
    finds: fc.constant([contacts]),
    actions: fc.array(action, { minLength: 1, maxLength: 2 }),
    onError: fc.constantFrom('go on' as const, 'stop' as const),
  }),
  { minLength: 1, maxLength: 3 },
);

const worlds = fc.sample(rules, { numRuns: 8, seed: 20_261_125 });

test.each(worlds.map((drawn, at) => [at, drawn] as const))(
  'live and replay give the same records, for generated rules %#',
  async (at, drawn) => {
    for (const [number, part] of drawn.entries()) published.push(await publish(at, number, part));
    const party = `4010${String(40 + at)}`;
    await world.ask('freight-desk', 'PATCH', `/v2/parties/${party}`, { deskNote: `note ${at}` });
    const run = await world.settled(party);
    const { outcome } = await world.run(run.id);
    const { body: taken } = await world.api<{ id: string }>('POST', '/samples', {
      run: run.id,
      name: 'same',
    });
    const { body: sample } = await world.api<Sample>('GET', `/samples/${taken.id}`);

    const replayed = await replay(sample, published);
    const shape = ({ change: { kind, ref } }: PlannedWrite) =>
      `${kind} ${ref.recordType} ${kind === 'create' ? '' : ref.id}`;
    expect(outcome.map(shape).sort()).toEqual(replayed.map(shape).sort());
    for (const write of replayed) {
      const live = outcome.find(
        (each) =>
          shape(each) === shape(write) && JSON.stringify(values(each)) === JSON.stringify(values(write)),
      );
      expect([shape(write), live?.state]).toEqual([shape(write), 'written']);
      if (write.change.kind === 'remove') continue;
      const { record } = await world.record(
        'freight-desk',
        write.change.ref.recordType,
        live?.change.ref.id ?? '',
      );
      for (const { path, after } of fieldsOf(write.change)) {
        expect(readPath(record, path) ?? null).toEqual(after === '' ? '' : (after ?? null));
      }
    }
  },
);

const values = ({ change }: PlannedWrite) => fieldsOf(change).map(({ path, after }) => [path, after ?? null]);

async function publish(
  at: number,
  number: number,
  part: Pick<RuleBody, 'guard' | 'finds' | 'actions'>,
): Promise<Rule> {
  const body: RuleBody = {
    ...part,
    name: `Drawn ${at}.${number}`,
    note: '',
    trigger: { system: 'freight-desk', recordType: 'party', kinds: ['updated'], watched: ['deskNote'] },
    actions: fitToPublish(part.actions),
  };
  const { body: view } = await world.api<RuleView>('POST', '/rules', body);
  const answer = await world.api<{ detail?: string }>('POST', `/rules/${view.id}/publish`, undefined, {
    'if-match': `"${view.revision}"`,
  });
  expect([answer.status, answer.body.detail]).toEqual([200, undefined]);
  return { ...body, id: view.id, version: 1 };
}

/** With a name of its own for each created record, and no second write to a record, which could have a second line for a field. */
function fitToPublish(actions: readonly Action[]): readonly Action[] {
  const written = new Set<string>();
  return actions.flatMap((each, at): Action[] => {
    if (each.kind === 'create') return [{ ...each, alias: `made${at}` }];
    if (each.kind !== 'write') return [each];
    if (written.has(each.target)) return [];
    written.add(each.target);
    return [each];
  });
}

/** The same event over the records that the run met, in memory. */
async function replay(sample: Sample, published: readonly Rule[]) {
  const { body: systems } = await world.api<SystemView[]>('GET', '/systems');
  const catalog = new Catalog([...systems.filter(({ key }) => key !== ownSystem), ownDefinition]);
  const compiled = published.map((rule) => {
    const result = compileRule(rule, { catalog, tables: new Map() });
    if (!result.ok) throw new Error(result.problems[0]?.error.message);
    return result.compiled;
  });
  const workspace = new MemoryWorkspace(catalog, sample.records);
  const { report } = await runEvent(sample.event, { catalog, rules: compiled, workspace });
  return report.writes;
}
