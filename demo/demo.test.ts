import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  fieldsOf,
  compileRule,
  bundleProblemText,
  ensembleIn,
  MemoryWorkspace,
  readBundles,
  replaySample,
  runEvent,
  surroundingsIn,
} from '@vast-knot/core';

const files = readdirSync(__dirname, { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('.json'))
  .sort()
  .map((file) => ({ file, json: JSON.parse(readFileSync(join(__dirname, file), 'utf8')) as unknown }));
const read = readBundles(files);
if (!read.ok) throw new Error(read.problems.map(bundleProblemText).join('; '));
const { rules, samples } = read.bundle;
const { catalog, tables } = surroundingsIn(read.bundle);
const surroundings = {
  catalog,
  tables,
  rules: new Map(rules.map(({ id, rule }) => [id, { ...rule, id, version: 1 }])),
  endpoints: new Set(['notice-post']),
};
const compiled = rules.map(({ id, published, rule }) => ({
  name: rule.name,
  published,
  result: compileRule({ ...rule, id, version: 1 }, surroundings),
}));

test.each(compiled)('the rule “$name” has no mistakes', ({ result }) => {
  expect(result.ok ? [] : result.problems.map(({ at, error }) => `${at}: ${error.message}`)).toEqual([]);
});

const bookings = ['contactPhone', 'collectionTown'];
const party = ['name', 'street', 'paymentCode', 'creditDays', 'mainContactId', 'mailDomain', 'region'];

test.each<[sample: string, drafts: boolean, writes: Record<string, string[]>]>([
  ['Smokehouse: new phone and town', false, { BK70002: bookings, BK70003: bookings }],
  ['Smokehouse: credit terms only', false, {}],
  ['Booking without a zone gets another port', false, { BK70003: ['tariffZone'] }],
  ['Smokehouse: renamed, moved, gets credit', true, { 401001: party }],
  ['Chilled load is weighed and labelled', false, { BK70003: ['handlingCodes', 'rateBand'] }],
  // The write to the vessel is a save of it, and on save it is tidied.
  ['Inspection turns poor', false, { 'V-13': ['Status Code', 'Old Call Sign', 'Hold Remark'] }],
  ['Voyage is finished', false, { 'V-11': ['Log Code', 'Old Radio', 'Old Call Sign', 'Last Voyage No'] }],
  ['Enquiry of a domain the desk knows', false, {}],
  ['Prospect becomes active', false, {}],
  // A label without a row stops its line only; the other line finds no weight and keeps what is there.
  ['Keep dry has no code yet', false, { BK70003: ['rateBand'] }],
])('the sample “%s” gives what its note says', async (name, drafts, writes) => {
  const sample = samples.find((each) => each.name === name);
  if (!sample) throw new Error('the sample is missing');
  const ready = compiled.flatMap(({ result, published }) =>
    result.ok && published !== drafts ? [result.compiled] : [],
  );
  const workspace = new MemoryWorkspace(catalog, sample.records);
  const { report } = await runEvent(sample.event, { catalog, rules: ready, workspace });
  const written = Object.fromEntries(
    report.writes.map(({ change }) => [change.ref.id, fieldsOf(change).map(({ path }) => path)]),
  );
  expect(written).toEqual(writes);
});

test('every name in the demo stays in ranges that are kept free: example domains, numbers for drama', () => {
  const text = JSON.stringify(samples);
  for (const domain of text.match(/@[\w.-]+/g) ?? []) expect(domain).toMatch(/\.example$/);
  for (const phone of text.match(/\b0\d{4} \d{3} \d{3}\b/g) ?? []) expect(phone).toMatch(/^01632 960/);
});

const published = new Set(rules.filter((rule) => rule.published).map(({ id }) => id));
const made = ensembleIn(read.bundle, surroundingsIn(read.bundle));

test.each(samples)('the sample “$name” comes out as it expects', async (sample) => {
  const { comparison } = await replaySample(sample, made, { catalog });
  expect([comparison.verdict, comparison.differences]).toEqual(['holds', 0]);
});

test.each(rules.map((rule, at) => ({ ...rule, name: rule.rule.name, tag: `rule ${at + 1}` })))(
  'the rule “$name” has three samples of its own at least, and in one of them it writes nothing',
  async ({ id, tag }) => {
    const own = samples.filter(({ tags }) => tags?.includes(tag));
    expect(own.length).toBeGreaterThanOrEqual(3);
    const deeds = await Promise.all(
      own.map(async (sample) => {
        const { report } = await replaySample(sample, made, { catalog });
        return [
          ...report.writes.filter((write) => write.rules.some((rule) => rule.id === id)),
          ...report.messages.filter((message) => message.rule.id === id),
        ].length;
      }),
    );
    expect(deeds).toContain(0);
    if (published.has(id)) expect(Math.max(...deeds)).toBeGreaterThan(0);
  },
);
