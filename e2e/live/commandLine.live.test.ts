import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { RuleView } from '@vast-knot/core';
import { main } from '../../cli/src/main';
import { until, World } from './harness';

jest.setTimeout(120_000);
let world: World;
let folder: string;
let environment: NodeJS.ProcessEnv;

async function tokenFor(rights: readonly string[]): Promise<string> {
  const { body } = await world.api<{ token: string }>('POST', '/session/tokens', {
    name: rights.join(' ').slice(0, 60),
    rights,
    days: 1,
  });
  return body.token;
}

beforeAll(async () => {
  world = await World.start();
  folder = mkdtempSync(join(tmpdir(), 'vast-knot-'));
  const all = ['rules.read', 'rules.edit', 'rules.publish', 'tables.change', 'samples.change', 'runs.read'];
  environment = { VAST_KNOT_SERVER: world.url, VAST_KNOT_TOKEN: await tokenFor(all) };
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await world.stop();
});

async function ask(...args: readonly string[]) {
  const [said, complained]: [string[], string[]] = [[], []];
  const code = await main(
    args,
    { folder, environment },
    (line) => said.push(line),
    (line) => complained.push(line),
  );
  return { code, said, complained: complained.join('\n') };
}

const ruleFile = () => join(folder, 'work/rules/tariff-zone-from-the-destination-port.json');
const change = (from: RegExp | string, to: string) => {
  const text = readFileSync(ruleFile(), 'utf8');
  expect(typeof from === 'string' ? text.includes(from) : from.test(text)).toBe(true);
  writeFileSync(ruleFile(), text.replace(from, to));
};

test('what a server has is pulled into files, and a second time nothing is written', async () => {
  const first = await ask('pull', 'work');
  expect(first.code).toBe(0);
  expect(first.said.at(-1)).toMatch(/^\d+ written, 0 removed, 0 as they were$/);
  expect(readdirSync(join(folder, 'work')).sort()).toEqual([
    '.pulled',
    'addresses',
    'rules',
    'samples',
    'systems',
    'tables',
  ]);
  writeFileSync(join(folder, 'work/rules/notes.json'), '{"mine": true}');
  writeFileSync(join(folder, 'work/rules/gone.json'), '{"vastKnot": 2, "rules": []}');
  const second = await ask('pull', 'work');
  expect(second.said).toEqual([
    'removed  rules/gone.json',
    expect.stringMatching(/^0 written, 1 removed, \d+ as they were$/) as string,
  ]);
  expect(readdirSync(join(folder, 'work/rules'))).toContain('notes.json');
  rmSync(join(folder, 'work/rules/notes.json'));
  // What was pulled stands by itself: the samples hold without the server.
  expect((await ask('replay', 'work')).said.at(-1)).toMatch(/, 0 differ/);
});

test('what was changed in a file is shown, pushed, and runs once it is published', async () => {
  change(/"note": ".*"/, '"note": "By the port alone."');
  // Without what was noted at the pull nobody can know which side changed.
  const noted = readFileSync(join(folder, 'work/.pulled'));
  rmSync(join(folder, 'work/.pulled'));
  const undecided = await ask('push', 'work', '--plan');
  expect(undecided.code).toBe(1);
  expect(undecided.said.join('\n')).toContain('undecided  rule Tariff zone from the destination port');
  expect((await ask('push', 'work', '--plan', '--take', 'theirs')).code).toBe(0);
  writeFileSync(join(folder, 'work/.pulled'), noted);
  const plan = await ask('push', 'work', '--plan');
  expect(plan.code).toBe(0);
  expect(plan.said.join('\n')).toMatch(/the rule, note: .* → By the port alone\./);
  const zone = async () =>
    (await world.api<RuleView[]>('GET', '/rules')).body.find(({ draft }) =>
      draft.name.startsWith('Tariff zone'),
    );
  expect((await zone())?.draft.note).not.toBe('By the port alone.');
  const done = await ask('push', 'work');
  expect([done.code, done.said.at(-1)]).toEqual([0, 'done']);
  const rule = await zone();
  expect([rule?.draft.note, rule?.published?.version]).toEqual(['By the port alone.', 1]);
  const published = await ask('rules', 'publish', rule?.draft.name ?? '', '--note', 'by the pipeline');
  expect(published).toMatchObject({ code: 0, said: [`“${rule?.draft.name}” runs as version 2`] });
  expect((await zone())?.published).toMatchObject({ version: 2, note: 'by the pipeline', by: 'admin' });
  // From now on it knows: another change there is taken without a question.
  change('By the port alone.', 'By the destination port alone.');
  const again = await ask('push', 'work', '--running');
  expect(again.code).toBe(0);
  expect((await zone())?.published).toMatchObject({ version: 3 });
});

test('a sample that differs there, or a rule with an error that is to run, is in the way', async () => {
  const before = readFileSync(ruleFile(), 'utf8');
  change('\\"zone\\"', '\\"no such column\\"');
  const refused = await ask('push', 'work', '--running');
  expect(refused.code).toBe(1);
  expect(refused.said.join('\n')).toMatch(
    /in the way: “Tariff zone from the destination port” cannot run here/,
  );
  expect(refused.said.join('\n')).toMatch(/in the way: \d+ samples differ there/);
  expect((await ask('push', 'work')).code).toBe(1);
  writeFileSync(ruleFile(), before);
});

test('runs are listed; one that failed gives 1', async () => {
  await world.changeCompany('C-1001', { phone: '01632 960 433' });
  const { said, code } = await until('the run stands in the list', async () => {
    const asked = await ask('runs', '--rule', 'Company phone and town to open bookings', '--most', '3');
    return asked.said.length > 0 && asked;
  });
  expect(code).toBe(0);
  expect(said.join('\n')).toContain('customer-book/company/C-1001');
  expect(await ask('runs', '--most', '0')).toMatchObject({ code: 2 });
});

test('who may not is told so, and so is who is nobody or reaches nobody', async () => {
  const narrow = { ...environment, VAST_KNOT_TOKEN: await tokenFor(['rules.read']) };
  const as = async (given: NodeJS.ProcessEnv, ...args: readonly string[]) => {
    const complained: string[] = [];
    const code = await main(
      args,
      { folder, environment: given },
      () => undefined,
      (line) => complained.push(line),
    );
    return { code, complained: complained.join('\n') };
  };
  expect(await as(narrow, 'rules')).toEqual({ code: 0, complained: '' });
  expect(await as(narrow, 'push', 'work')).toMatchObject({
    code: 1,
    complained: expect.stringMatching(/not|rights/) as string,
  });
  expect((await as({ ...environment, VAST_KNOT_TOKEN: 'nobody' }, 'rules')).code).toBe(1);
  expect(await as({ ...environment, VAST_KNOT_SERVER: 'http://127.0.0.1:9' }, 'rules')).toMatchObject({
    code: 1,
    complained: expect.stringMatching(/does not answer/) as string,
  });
  expect(await as({}, 'rules')).toMatchObject({
    code: 2,
    complained: expect.stringMatching(/Say which server/) as string,
  });
  expect(await as({ VAST_KNOT_SERVER: world.url }, 'rules')).toMatchObject({
    code: 2,
    complained: expect.stringMatching(/Say who asks/) as string,
  });
});
