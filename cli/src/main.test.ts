import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { applyPatch } from 'rfc6902';
import { main } from './main';

const demo = join(__dirname, '../../demo');
let folder: string;
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'vast-knot-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

async function ask(...args: readonly string[]) {
  const [said, complained]: [string[], string[]] = [[], []];
  const code = await main(
    args,
    { folder, environment: {} },
    (line) => said.push(line),
    (line) => complained.push(line),
  );
  return { code, said: said.join('\n'), complained: complained.join('\n') };
}

function write(name: string, json: unknown): void {
  writeFileSync(join(folder, name), typeof json === 'string' ? json : JSON.stringify(json));
}

/** One file of the demo, changed as a test wants it. */
function demoFile(name: string): {
  samples: { name: string; expected?: { records: { fields: Record<string, unknown> }[] } }[];
} {
  return JSON.parse(readFileSync(join(demo, name), 'utf8')) as never;
}

const phone = 'samples/01-smokehouse-new-phone-and-town.json';

test('the samples of the demo hold', async () => {
  const { code, said } = await ask('replay', demo);
  expect(said).toMatch(/\d+ hold, 0 differ$/);
  expect(code).toBe(0);
});

test('a sample that differs is told field by field, and gives 1', async () => {
  const file = demoFile(phone);
  const [sample] = file.samples;
  const fields = sample?.expected?.records[0]?.fields ?? {};
  fields['contactPhone'] = { is: 'equal', value: '+441632960999' };
  write('sample.json', {
    ...file,
    samples: [{ ...sample, id: '0192f3b0-00ff-7000-8000-000000000001', name: 'Broken' }],
  });
  const parts = ['systems', 'tables', 'rules'].map((part) => join(demo, part));
  const { code, said } = await ask(
    'replay',
    ...parts,
    'sample.json',
    '--junit',
    'out.xml',
    '--json',
    'out.json',
  );
  expect(code).toBe(1);
  expect(said).toContain('contactPhone: differs; expected +441632960999, got "+441632960715"');
  expect(readFileSync(join(folder, 'out.xml'), 'utf8')).toContain('failures="1"');
  const [result] = JSON.parse(readFileSync(join(folder, 'out.json'), 'utf8')) as { verdict: string }[];
  expect(result?.verdict).toBe('differs');
});

test('one sample can be asked for by its name', async () => {
  const { said } = await ask('replay', demo, '--sample', 'Inspection turns poor');
  expect(said).toContain('1 hold, 0 differ');
  expect(await ask('replay', demo, '--sample', 'No such')).toMatchObject({
    code: 2,
    complained: 'No sample is called “No such”.',
  });
});

test('the findings of the demo are printed, and none is an error', async () => {
  const { code, said } = await ask('check', demo);
  expect([code, said.split('\n').at(-1)]).toEqual([
    0,
    expect.stringMatching(/^0 errors, \d+ warnings in 25 rules and 6 tables$/),
  ]);
});

test('an event over records gives the records afterwards, as a JSON Patch of RFC 6902 does', async () => {
  const { event, records } = demoFile(phone).samples[0] as unknown as { event: unknown; records: unknown };
  write('event.json', event);
  write('records.json', records);
  const { code, said } = await ask('run', demo, '--event', 'event.json', '--records', 'records.json');
  expect(code).toBe(0);
  const outcome = JSON.parse(said) as {
    records: { before: Record<string, unknown>; after: unknown; patch: never[] }[];
    trace: { ruleName: string }[];
  };
  expect(outcome.records).toHaveLength(2);
  for (const { before, after, patch } of outcome.records) {
    expect(applyPatch(before, patch).every((error) => error === null)).toBe(true);
    expect(before).toEqual(after);
  }
  expect(outcome.trace[0]?.ruleName).toBe('Company phone and town to open bookings');
});

test('the published schemas hold what goes in and what comes out, and refuse what the program refuses', async () => {
  const ajv = new Ajv2020({ strict: false });
  addFormats.default(ajv);
  const fits = (name: string, json: unknown) => {
    const schema = JSON.parse(
      readFileSync(join(__dirname, `../../docs/schemas/${name}.json`), 'utf8'),
    ) as object;
    return ajv.validate(schema, json) || ajv.errorsText();
  };
  for (const file of readdirSync(demo, { recursive: true, encoding: 'utf8' })) {
    if (file.endsWith('.json')) expect([file, fits('bundle', demoFile(file))]).toEqual([file, true]);
  }
  expect(fits('bundle', { vastKnot: 2, colour: 'red' })).toContain('additional properties');
  const { event, records, expected } = demoFile(phone).samples[0] as unknown as Record<string, unknown>;
  expect([fits('event', event), fits('records', records), fits('expected', expected)]).toEqual([
    true,
    true,
    true,
  ]);
  write('event.json', event);
  write('records.json', records);
  const { said } = await ask('run', demo, '--event', 'event.json', '--records', 'records.json');
  expect(fits('outcome', JSON.parse(said))).toBe(true);
});

test.each([
  [['replay'], 'Say which bundle'],
  [['replay', 'nowhere.json'], 'There is no file'],
  [['replay', 'broken.json'], 'is not JSON'],
  [['replay', 'odd.json'], 'odd.json at colour: "colour" is not allowed.'],
  [['replay', 'odd.json', '--fast'], '--fast'],
  [['run', demo], '--event FILE'],
  [['run', demo, '--event', 'odd.json', '--records', 'broken.json'], 'is not JSON'],
  [['run', demo, '--event', 'odd.json', '--records', 'none.json'], 'at ref'],
  [[], 'Usage:'],
])('wrong input %j gives 2 and says what is wrong', async (args, sentence) => {
  write('broken.json', '{');
  write('odd.json', { vastKnot: 1, colour: 'red' });
  write('none.json', []);
  const { code, complained } = await ask(...args);
  expect(code).toBe(2);
  expect(complained).toContain(sentence);
});

test('tables are checked as the server checks them: a cell of another type, a key that two rows have', async () => {
  write('table.json', {
    vastKnot: 1,
    tables: [
      {
        name: 'Zones',
        columns: [
          { name: 'port', label: 'Port', type: 'text', key: true },
          { name: 'days', label: 'Days', type: 'integer', key: false },
        ],
        rows: [
          ['NOR', 1],
          ['NOR', 2],
          ['MUR', 'soon'],
        ],
        matching: 'exact',
        onMiss: 'stop',
      },
    ],
  });
  const { code, said } = await ask('check', 'table.json');
  expect(code).toBe(1);
  expect(said.split('\n')).toEqual([
    'error    Zones: Rows 1 and 2 have the same key “NOR”.',
    'error    Zones: Row 3, “Days”: “soon” is not a whole number.',
    '2 errors, 0 warnings in 0 rules and 1 table',
  ]);
});

test('an event of a record type that no system of the bundle has is told of by run', async () => {
  const event = {
    id: 'e1',
    source: '/x',
    kind: 'updated',
    ref: { system: 'customer-book', recordType: 'ship', id: 'S-1' },
    time: '2026-03-09T09:00:00Z',
    record: { id: 'S-1' },
    changed: [],
  };
  write('event.json', event);
  write('records.json', []);
  const { code, said } = await ask('run', demo, '--event', 'event.json', '--records', 'records.json');
  expect(code).toBe(1);
  expect(said).toContain('There is no record type “ship” in the system “customer-book”');
});
