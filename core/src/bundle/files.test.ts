import fc from 'fast-check';
import { rule } from '../engine/testHarbour';
import type { Json } from '../model/json';
import { parseJson } from '../model/jsonText';
import { canonicalText } from './canonical';
import { emptyBundle, readBundles, type WholeBundle } from './bundle';
import { bundleFiles, bundleText } from './files';

const ruleOf = (last: number, name: string) => ({
  id: `0192f3a0-0001-7000-8000-00000000000${last}`,
  published: false,
  rule: { ...rule([]), name },
});
const table = {
  name: 'Ports to zones',
  columns: [
    { name: 'port', label: 'Port', type: 'text' as const, key: true },
    { name: 'zone', label: 'Zone', type: 'text' as const, key: false },
  ],
  rows: [['Skarvøy', 'N1']],
  matching: 'exact' as const,
  onMiss: 'stop' as const,
};
const bundle: WholeBundle = {
  ...emptyBundle,
  tables: [table],
  rules: [
    ruleOf(1, 'Phone to bookings'),
    ruleOf(2, 'phone — to bookings'),
    ruleOf(3, 'Tømmer & årsfelt'),
    ruleOf(4, '→'),
  ],
};

test('each part is a file of its own that is named after it; where two have one name their ids tell them apart', () => {
  expect(bundleFiles(bundle).map(({ path }) => path)).toEqual([
    'tables/ports-to-zones.json',
    'rules/0192f3a0-0001-7000-8000-000000000004.json',
    'rules/phone-to-bookings-0192f3a0-0001-7000-8000-000000000001.json',
    'rules/phone-to-bookings-0192f3a0-0001-7000-8000-000000000002.json',
    'rules/tømmer-arsfelt.json',
  ]);
});

test('the files hold what the bundle holds, and so does the one file', () => {
  const parts = readBundles(
    bundleFiles(bundle).map(({ path, text }) => ({ file: path, json: parseJson(text) })),
  );
  const one = readBundles([{ file: 'all.json', json: parseJson(bundleText(bundle)) }]);
  if (!parts.ok || !one.ok) throw new Error(JSON.stringify(parts));
  const rules = (whole: WholeBundle) => [...whole.rules].sort((a, b) => (a.id < b.id ? -1 : 1));
  expect(rules(parts.bundle)).toEqual(bundle.rules);
  expect(one.bundle).toEqual(bundle);
});

// RFC 8785, 3.2.3: the example for sorting by UTF-16 code units.
test('members stand in the order of RFC 8785', () => {
  const given = {
    '\u20ac': 'Euro Sign',
    '\r': 'Carriage Return',
    '\ufb33': 'Hebrew Letter Dalet With Dagesh',
    '1': 'One',
    '\ud83d\ude00': 'Emoji: Grinning Face',
    '\u0080': 'Control',
    '\u00f6': 'Latin Small Letter O With Diaeresis',
  };
  const values = [...canonicalText(given).matchAll(/: "([^"]*)",?$/gm)].map(([, value]) => value);
  expect(values).toEqual([
    // A JavaScript object keeps what looks like an index first; the RFC has the carriage return before it.
    'One',
    'Carriage Return',
    'Control',
    'Latin Small Letter O With Diaeresis',
    'Euro Sign',
    'Emoji: Grinning Face',
    'Hebrew Letter Dalet With Dagesh',
  ]);
});

test('the order in which members were made makes no difference, and reading gives the content back', () => {
  const json = fc.letrec<{ json: Json }>((tie) => ({
    json: fc.oneof(
      { depthSize: 'small' },
      fc.constantFrom<Json>(null, true, 0, 1.5, 'text', ''),
      fc.array(tie('json'), { maxLength: 4 }),
      fc.dictionary(fc.string({ maxLength: 4 }), tie('json'), { maxKeys: 5 }),
    ),
  })).json;
  const reversed = (value: Json | undefined): unknown => {
    if (Array.isArray(value)) return value.map(reversed);
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(
      Object.entries(value)
        .reverse()
        .map(([name, each]) => [name, reversed(each)]),
    );
  };
  fc.assert(
    fc.property(json, (value) => {
      const text = canonicalText(value);
      expect(canonicalText(reversed(value))).toBe(text);
      expect(parseJson(text)).toEqual(value);
    }),
  );
});
