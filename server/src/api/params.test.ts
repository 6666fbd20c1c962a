import { instant } from './params';

test.each([
  ['2026-05-20', '2026-05-20T00:00:00.000Z'],
  ['2026-05-20T10:00:00+02:00', '2026-05-20T08:00:00.000Z'],
  ['+275760-09-13', undefined],
  ['0000-01-01', undefined],
  ['2026-W10', undefined],
  ['yesterday', undefined],
])('the instant %s is read as %s', (text, read) => {
  const { value, error } = instant.validate(text) as { value: string; error?: Error };
  expect(error ? undefined : value).toBe(read);
});
