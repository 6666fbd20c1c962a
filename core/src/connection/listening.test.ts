import { changeMark, listeningSchema, sinceParameters, type Asked } from './listening';

const asked = (more: Partial<Asked>): Asked => ({
  parameters: { 'filter[changed]': 'ge:{since}', sort: 'changed' },
  field: 'changed',
  form: 'date-time',
  overlapSeconds: 60,
  everySeconds: 60,
  ...more,
});

test.each<[Asked['form'], unknown, number | undefined]>([
  ['date-time', '2026-03-09T10:00:00Z', Date.UTC(2026, 2, 9, 10)],
  ['date-time', '2026-03-09T10:00:00+02:00', Date.UTC(2026, 2, 9, 8)],
  ['date-time', '2026-03-09T10:00:00', Date.UTC(2026, 2, 9, 10)],
  ['date', '2026-03-09', Date.UTC(2026, 2, 9)],
  ['seconds', 1_700_000_000, 1_700_000_000_000],
  ['seconds', '1700000000', 1_700_000_000_000],
  ['milliseconds', 1_700_000_000_000, 1_700_000_000_000],
  ['number', '42', 42],
  ['number', 'many', undefined],
  ['date-time', 'yesterday', undefined],
  ['date-time', null, undefined],
])('as %s, %p is a mark', (form, value, mark) => {
  expect(changeMark(form, value)).toBe(mark);
});

test('since when is asked in the form of the system, a little earlier; a number is not moved back', () => {
  const at = Date.UTC(2026, 2, 9, 10);
  const since = (form: Asked['form'], mark = at) => sinceParameters(asked({ form }), mark)[0];
  expect(since('date-time')).toEqual(['filter[changed]', 'ge:2026-03-09T09:59:00Z']);
  expect(since('date')).toEqual(['filter[changed]', 'ge:2026-03-09']);
  expect(since('seconds')).toEqual(['filter[changed]', `ge:${at / 1000 - 60}`]);
  expect(since('milliseconds')).toEqual(['filter[changed]', `ge:${at - 60_000}`]);
  expect(since('number', 42)).toEqual(['filter[changed]', 'ge:42']);
});

test('what asks for everything each time is refused', () => {
  const { error } = listeningSchema.validate({ asked: asked({ parameters: { sort: 'changed' } }) });
  expect(error?.message).toContain('No parameter says since when');
});
