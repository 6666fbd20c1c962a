import { catalog, compiled, find, line, rule, stored, updated, write } from './testHarbour';
import { runEvent } from './run';
import { MemoryWorkspace } from '../workspace/memory';

const body = {
  ...rule([write('person', line('note', 'name'))], { finds: [find('person', 'company', 'id')] }),
  guard: 'name <> ""',
};
const company = updated({ name: 'Skerry' }, { name: 'Sker' });
const records = ['P1', 'P2'].map((id) => stored('person', id, { company: company.ref.id }));

async function steps(clock?: () => number) {
  const workspace = new MemoryWorkspace(catalog, [{ ref: company.ref, record: company.record }, ...records]);
  const { report } = await runEvent(company, {
    catalog,
    rules: compiled([body]),
    workspace,
    ...(clock && { clock }),
  });
  return report.rules.flatMap((each) => each.steps.map(({ kind, milliseconds }) => [kind, milliseconds]));
}

test('every step tells how long it took, those that only compute as well; an action once for all its records', async () => {
  let now = 0;
  expect(await steps(() => (now += 1.5))).toEqual([
    ['guard', 1.5],
    ['find', 1.5],
    ['write', 1.5],
    ['write', undefined],
  ]);
});

test('without a clock nothing is told, so that two replays are the same', async () => {
  expect((await steps()).map(([, milliseconds]) => milliseconds)).toEqual([
    undefined,
    undefined,
    undefined,
    undefined,
  ]);
});
