import fc from 'fast-check';
import type { RuleBody } from '../engine/rule';
import { differencesOfRules } from './differences';

const body: RuleBody = {
  name: 'Phone to bookings',
  note: '',
  trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['phone'] },
  guard: '',
  finds: [
    {
      alias: 'b',
      system: 'desk',
      recordType: 'booking',
      match: [{ field: 'company', is: 'equal', formula: 'id' }],
      none: 'stop',
      several: 'each',
    },
  ],
  actions: [
    {
      kind: 'write',
      target: 'b',
      lines: [
        { field: 'phone', formula: 'phone', policy: 'always' },
        { field: 'name', formula: 'UPPER(name)', policy: 'always' },
      ],
    },
    { kind: 'tidy', target: 'record', steps: [{ do: 'clean', field: 'name', how: 'trim' }] },
  ],
};
const write = body.actions[0];
if (write?.kind !== 'write') throw new Error('the first action writes');
const withLines = (lines: (typeof write)['lines']): RuleBody => ({
  ...body,
  actions: [{ ...write, lines }, ...body.actions.slice(1)],
});
const [phone, name] = write.lines;
if (!phone || !name) throw new Error('there are two lines');

test('versions that say the same have no differences', () => {
  expect(differencesOfRules(body, structuredClone(body))).toEqual([]);
});

test('a watched field, a condition and a wait are told where a rule is read', () => {
  const later: RuleBody = {
    ...body,
    trigger: { ...body.trigger, watched: ['phone', 'address.town'], wait: 60 },
    guard: 'status = "active"',
  };
  expect(differencesOfRules(body, later)).toEqual([
    { of: 'when it runs', what: 'watched fields', before: 'phone', after: 'phone, address.town' },
    { of: 'when it runs', what: 'seconds to wait for more changes', after: '60' },
    { of: 'only if', what: 'condition', after: 'status = "active"' },
  ]);
});

test('a line is told by its field, whatever line stands before it', () => {
  const later = withLines([
    { field: 'town', formula: 'address.town', policy: 'target blank' },
    { ...phone, formula: 'PHONE(phone)' },
    name,
  ]);
  expect(differencesOfRules(body, later)).toEqual([
    { of: 'write to a record (b)', field: 'town', what: 'formula', after: 'address.town' },
    { of: 'write to a record (b)', field: 'town', what: 'when it is written', after: 'target blank' },
    { of: 'write to a record (b)', field: 'phone', what: 'formula', before: 'phone', after: 'PHONE(phone)' },
  ]);
});

test('a find that is gone is told with all that it said', () => {
  expect(differencesOfRules(body, { ...body, finds: [] }).filter(({ of }) => of === 'find of b')).toEqual([
    { of: 'find of b', what: 'system', before: 'desk' },
    { of: 'find of b', what: 'record type', before: 'booking' },
    { of: 'find of b', what: 'matches, company, field', before: 'company' },
    { of: 'find of b', what: 'matches, company, compared by', before: 'equal' },
    { of: 'find of b', what: 'matches, company, formula', before: 'id' },
    { of: 'find of b', what: 'when none is found', before: 'stop' },
    { of: 'find of b', what: 'when several are found', before: 'each' },
  ]);
});

test('another order is told only where it is all that is different', () => {
  expect(differencesOfRules(body, withLines([name, phone]))).toEqual([
    {
      of: 'write to a record (b)',
      what: 'lines, order',
      before: 'phone, then name',
      after: 'name, then phone',
    },
  ]);
  expect(differencesOfRules(body, withLines([name]))).toEqual([
    { of: 'write to a record (b)', field: 'phone', what: 'formula', before: 'phone' },
    { of: 'write to a record (b)', field: 'phone', what: 'when it is written', before: 'always' },
  ]);
  const turned: RuleBody = { ...body, actions: [...body.actions].reverse() };
  expect(differencesOfRules(body, turned)).toEqual([
    {
      of: 'what it does',
      what: 'order',
      before: 'write to a record (b), then put the fields of a record in order (record)',
      after: 'put the fields of a record in order (record), then write to a record (b)',
    },
  ]);
});

test('two lines for one field are told apart', () => {
  const twice = withLines([phone, name, { ...phone, formula: 'mobile' }]);
  expect(differencesOfRules(body, twice)).toEqual([
    { of: 'write to a record (b)', field: 'phone', what: 'formula', after: 'mobile' },
    { of: 'write to a record (b)', field: 'phone', what: 'when it is written', after: 'always' },
  ]);
});

const text = fc.constantFrom('', 'name', 'UPPER(name)', 'phone');
const line = fc.record({
  field: fc.constantFrom('phone', 'name', 'town'),
  formula: text,
  policy: fc.constantFrom('always', 'target blank'),
});
const any: fc.Arbitrary<RuleBody> = fc.record({
  name: fc.constantFrom('A', 'B'),
  note: text,
  trigger: fc.record({
    system: fc.constantFrom('book', 'desk'),
    recordType: fc.constant('company'),
    kinds: fc.subarray(['created', 'updated'] as const, { minLength: 1 }),
    watched: fc.shuffledSubarray(['phone', 'name', 'town']),
  }),
  guard: text,
  finds: fc.constant([]),
  actions: fc.array(
    fc.record({
      kind: fc.constant('write' as const),
      target: fc.constantFrom('record', 'b'),
      lines: fc.array(line, { maxLength: 4 }),
    }),
    { maxLength: 3 },
  ),
}) as fc.Arbitrary<RuleBody>;

test('law: what is told one way is told the other way round, and nothing is told only of what says the same', () => {
  fc.assert(
    fc.property(any, any, (one, other) => {
      const there = differencesOfRules(one, other);
      const back = differencesOfRules(other, one);
      const turned = back.map(({ of, what, field, before, after }) =>
        JSON.stringify([of, what, field, after, before]),
      );
      expect(
        there
          .map(({ of, what, field, before, after }) => JSON.stringify([of, what, field, before, after]))
          .sort(),
      ).toEqual(turned.sort());
      const withoutEmpty = (body: RuleBody) =>
        JSON.stringify({
          ...body,
          actions: body.actions.map((action) =>
            action.kind === 'write'
              ? { ...action, lines: action.lines.map((each) => JSON.stringify(each)) }
              : action,
          ),
        });
      expect(there.length === 0).toBe(withoutEmpty(one) === withoutEmpty(other));
    }),
    { numRuns: 500 },
  );
});
