/**
 * Files, events and bundles that nobody should send: those of the demo, spoilt at random. Each is taken or refused with a sentence; none
 * throws, and none takes longer than a person would wait. `npm run fuzz -- 200000` makes more.
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  checkRules,
  ensemble,
  parseCloudEvent,
  parseJson,
  printJson,
  readBundles,
  readSamples,
  readTableCsv,
  replaySample,
  rulesIn,
  samplesFromCsv,
  surroundingsIn,
  type WholeBundle,
} from '@vast-knot/core';
import { Random } from '../core/src/model/testRandom';

const runs = Math.min(20_000, Number(process.env['FUZZ_RUNS'] ?? 2000));
const seed = Number(process.env['FUZZ_SEED'] ?? Date.now() % 1_000_000_007);
/** The longest that one of them may take, in milliseconds. */
const patience = 250;

const filesIn = (folder: string): readonly string[] =>
  readdirSync(join(__dirname, folder))
    .filter((name) => name.endsWith('.json'))
    .map((name) => readFileSync(join(__dirname, folder, name), 'utf8'));
const samples = filesIn('samples');
const parts = { systems: filesIn('systems'), tables: filesIn('tables'), rules: filesIn('rules') };
const all = [...parts.systems, ...parts.tables, ...parts.rules];

const hostile: readonly unknown[] = [
  null,
  '',
  0,
  -1,
  1e308,
  true,
  [],
  {},
  [[]],
  [null],
  '__proto__',
  'constructor',
  'x'.repeat(5000),
  '('.repeat(500),
  '\u0000\uD800',
  { $number: '9'.repeat(400) },
  { ['__proto__']: { x: 1 } },
  Array.from({ length: 300 }, () => null),
];

/** Spoils some places of a document. */
function spoilt(json: unknown, random: Random): unknown {
  const copy = structuredClone(json);
  for (let times = 1 + random.below(3); times > 0; times--) {
    let here: unknown = copy;
    for (let depth = 0; depth < 12 && typeof here === 'object' && here !== null; depth++) {
      const names = Object.keys(here);
      if (names.length === 0) break;
      const name = random.of(names);
      const holder = here as Record<string, unknown>;
      const inner = holder[name];
      if (typeof inner !== 'object' || inner === null || random.below(4) === 0) {
        const kind = random.below(6);
        if (kind === 0) delete holder[name];
        else if (kind === 1) holder[`${name}x`] = inner;
        else if (kind === 2) holder[name] = random.of(Object.values(holder));
        else holder[name] = structuredClone(random.of(hostile));
        break;
      }
      here = inner;
    }
  }
  return copy;
}

/** Spoils characters of a text. */
function torn(text: string, random: Random): string {
  const at = random.below(text.length + 1);
  const pieces = ['"', ',', '\n', '[', '{', '}', '\\u0000', '1e999', ';', '\uDC00', text.slice(at, at + 200)];
  return text.slice(0, at) + random.of(pieces) + text.slice(at + random.below(30));
}

async function eachInTime(ask: (random: Random) => unknown): Promise<void> {
  const wrong: string[] = [];
  for (let at = 0; at < runs; at++) {
    const once = async () => {
      const begun = performance.now();
      await ask(new Random(seed + at));
      return performance.now() - begun;
    };
    try {
      if ((await once()) > patience && (await once()) > patience && (await once()) > patience)
        wrong.push(`${seed + at} is slow`);
    } catch (thrown) {
      wrong.push(
        `${seed + at} threw ${thrown instanceof Error ? (thrown.stack ?? '').slice(0, 400) : String(thrown)}`,
      );
    }
  }
  expect(wrong.slice(0, 10)).toEqual([]);
}

const bundleOf = (texts: readonly string[]): WholeBundle => {
  const read = readBundles(texts.map((text, at) => ({ file: String(at), json: parseJson(text) })));
  if (!read.ok) throw new Error('the demo is a bundle');
  return read.bundle;
};
const whole = bundleOf(all);
const surroundings = surroundingsIn(whole);
const made = ensemble(rulesIn(whole), surroundings);

test(`${runs} spoilt bundles from the seed ${seed} are read and checked, or refused with their place`, () =>
  eachInTime((random) => {
    const own = parseJson(random.of(parts.rules));
    const read = readBundles([{ file: 'spoilt', json: spoilt(own, random) }]);
    if (!read.ok) return read.problems.forEach(({ message }) => expect(message).not.toBe(''));
    checkRules(rulesIn(read.bundle), surroundings);
  }));

test(`${runs} spoilt samples from the seed ${seed} are read and replayed, or refused with a sentence`, () =>
  eachInTime(async (random) => {
    const json = spoilt(parseJson(random.of(samples)), random);
    const text = printJson(json);
    const read = readSamples(random.below(3) === 0 ? torn(text, random) : text);
    if (!read.ok) return read.problems.forEach((problem) => expect(problem).not.toBe(''));
    const [draft] = read.drafts;
    if (draft) await replaySample({ records: [], ...draft, id: 's' }, made, surroundings);
  }));

test(`${runs} spoilt events and files from the seed ${seed} are read, or refused with a sentence`, () =>
  eachInTime((random) => {
    const envelope = {
      specversion: '1.0',
      id: 'e',
      source: '/s',
      type: 't',
      subject: 's',
      time: '2026-03-09T09:00:00Z',
      data: { record: { id: 1 } },
    };
    const body = torn(printJson(spoilt(envelope, random)), random);
    const told = parseCloudEvent(
      { 'content-type': random.of(['application/cloudevents+json', 'application/json', 'x']) },
      body,
    );
    if (!told.ok) expect(told.because).not.toBe('');
    const [table] = whole.tables;
    const [system] = whole.systems;
    const [type] = system?.system.recordTypes ?? [];
    if (!table || !system || !type) throw new Error('the demo has tables and systems');
    const csv = torn('port,zone\nNOR,N2\n"MUR",S1\n'.repeat(random.below(40)), random);
    readTableCsv(table, csv);
    samplesFromCsv(csv, { system: system.system.key, type, time: '2026-03-09T09:00:00Z', newId: () => 'n' });
  }));
