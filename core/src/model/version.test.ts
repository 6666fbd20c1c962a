import { versionNumber, versionText } from './version';

test.each([
  [7, 7],
  ['12', 12],
  ['0007', 7],
  ['2026-03-09T10:00:00Z', 1_773_050_400_000_000],
  ['2026-03-09T11:00:00.000001+01:00', 1_773_050_400_000_001],
])('%p is a version with an order', (value, number) => {
  expect(versionNumber(value)).toBe(number);
});

test.each([
  ['a9f3'],
  ['W/"7"'],
  [''],
  [null],
  [undefined],
  ['2026-03-09'],
  ['12345678901234567890'],
  ['1.5'],
  [true],
])('%p has no order', (value) => {
  expect(versionNumber(value)).toBeUndefined();
});

test('a later time is a greater version, down to the microsecond', () => {
  const early = versionNumber('2026-03-09T10:00:00.123456Z') ?? 0;
  expect(versionNumber('2026-03-09T10:00:00.123457Z')).toBe(early + 1);
});

test('versions are told as counts or as times', () => {
  expect([versionText(7), versionText(1_773_050_400_000_001)]).toEqual([
    'version 7',
    'the state of 2026-03-09T10:00:00.000001Z',
  ]);
});
