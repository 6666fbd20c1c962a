import { Random } from '../model/testRandom';
import type { Schedule } from '../model/trigger';
import { fileNamed, fileSourceSchema, lastDue, missingSince } from './source';

test.each([
  ['*.csv', 'Manifest.CSV', true],
  ['*.csv', 'manifest.csv.gz', false],
  ['manifest-*-*.csv', 'manifest-2026-11.csv', true],
  ['manifest-*-*.csv', 'manifest-2026.csv', false],
  ['parts.mrc', 'parts.mrc', true],
  ['parts.mrc', 'Xparts.mrc', false],
  ['*', 'anything', true],
  ['a*a', 'a', false],
  ['a.c', 'abc', false],
])('the pattern %s of the name %s: %s', (pattern, name, fits) => {
  expect(fileNamed(pattern)(name)).toBe(fits);
});

test('a pattern means what an expression of the same meaning does', () => {
  for (let seed = 0; seed < 2000; seed++) {
    const random = new Random(seed);
    const word = (letters: string, most: number) =>
      Array.from({ length: random.below(most) }, () => letters.charAt(random.below(letters.length))).join('');
    const [pattern, name] = [word('ab*', 7), word('ab', 9)];
    const expression = new RegExp(`^${pattern.replaceAll('*', '.*')}$`);
    expect([pattern, name, fileNamed(pattern)(name)]).toEqual([pattern, name, expression.test(name)]);
  }
});

const weekdays: Schedule = { at: '09:00', zone: 'Europe/London', days: [1, 2, 3, 4, 5] };

test('when a schedule was last due is known over a weekend and over the change of the clocks', () => {
  // 2026-03-30 is a Monday, the day after the clocks went forward.
  expect(lastDue(weekdays, new Date('2026-03-30T07:59:00Z'))?.toISOString()).toBe('2026-03-27T09:00:00.000Z');
  expect(lastDue(weekdays, new Date('2026-03-30T08:00:30Z'))?.toISOString()).toBe('2026-03-30T08:00:00.000Z');
  expect(lastDue({ ...weekdays, days: [7] }, new Date('2026-03-28T12:00:00Z'))?.toISOString()).toBe(
    '2026-03-22T09:00:00.000Z',
  );
});

test('a file is missing once the time has passed by which it was expected, and none came since the time before', () => {
  const since = new Date('2026-03-01T00:00:00Z');
  const missing = (now: string, lastCame: string | null, from = since) =>
    missingSince(weekdays, {
      now: new Date(now),
      since: from,
      lastCame: lastCame === null ? null : new Date(lastCame),
    })?.toISOString();
  const wednesday = '2026-03-11T09:00:00.000Z';
  expect(missing('2026-03-11T09:05:00Z', null)).toBe(wednesday);
  expect(missing('2026-03-11T09:05:00Z', '2026-03-10T08:59:00Z')).toBe(wednesday);
  expect(missing('2026-03-11T09:05:00Z', '2026-03-10T10:00:00Z')).toBeUndefined();
  // It came late, and is missing no more.
  expect(missing('2026-03-11T11:00:00Z', '2026-03-11T10:00:00Z')).toBeUndefined();
  // On Monday that of Friday after nine counts.
  expect(missing('2026-03-16T09:00:00Z', '2026-03-13T12:00:00Z')).toBeUndefined();
  // Nobody had said so by then.
  expect(missing('2026-03-11T09:05:00Z', null, new Date('2026-03-11T09:01:00Z'))).toBeUndefined();
});

test('what says where files come from is checked', () => {
  const source = {
    name: 'Manifest',
    origin: { kind: 'folder', folder: 'quay', pattern: '*.csv' },
    system: 'inlets',
    recordType: 'manifest row',
    apply: false,
    expected: weekdays,
  };
  expect(fileSourceSchema.validate(source).error).toBeUndefined();
  const origin = { kind: 'folder', folder: 'quay', pattern: '../*' };
  expect(fileSourceSchema.validate({ ...source, origin }).error?.message).toContain('name of a file');
  expect(fileSourceSchema.validate({ ...source, origin: { kind: 'ftp' } }).error?.message).toContain('kind');
});
