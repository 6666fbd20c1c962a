import { MessageRate, Rejections } from './rejections';

test('some rejected messages of a minute are kept, more are only answered, and a flood is told to come later', () => {
  let now = 0;
  const rejections = new Rejections(() => now);
  const all = Array.from({ length: 400 }, () => rejections.note('book'));
  expect(['keep', 'answer', 'later'].map((kind) => all.filter((each) => each === kind).length)).toEqual([
    30, 270, 100,
  ]);
  expect(rejections.note('desk')).toBe('keep');
  now = 60_000;
  expect(rejections.note('book')).toBe('keep');
});

test('a stranger who tries a million addresses is counted as one, and takes no memory', () => {
  const rejections = new Rejections(() => 0);
  let kept = 0;
  for (let at = 0; at < 100_000; at++) if (rejections.note(`guess-${at}`) === 'keep') kept++;
  expect(kept).toBeLessThanOrEqual(1030);
  expect(rejections.note('one more')).toBe('later');
});

test('a system may send in a burst and then at its rate', () => {
  let now = 0;
  const rate = new MessageRate(10, () => now);
  const passed = (count: number) =>
    Array.from({ length: count }, () => rate.passes('book')).filter(Boolean).length;
  expect(passed(50)).toBe(20);
  now = 500;
  expect(passed(50)).toBe(5);
  expect(rate.passes('desk')).toBe(true);
  now = 60_000;
  expect(passed(50)).toBe(20);
});
