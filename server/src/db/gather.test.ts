import * as fc from 'fast-check';
import { Gather } from './gather';

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

test('whoever asks alone has a turn alone; those who ask while it is under way share the next one', async () => {
  const turns: (readonly number[])[] = [];
  const doubled = new Gather<number, number>(async (items) => {
    turns.push(items);
    await pause(10);
    return items.map((item) => item * 2);
  });
  const first = doubled.do(1);
  await pause(2);
  const more = [2, 3, 4].map((item) => doubled.do(item));
  expect(await Promise.all([first, ...more])).toEqual([2, 4, 6, 8]);
  expect(turns).toEqual([[1], [2, 3, 4]]);
});

test('a turn takes no more than it may, and the rest comes in the next ones, in order', async () => {
  const turns: number[] = [];
  const same = new Gather<number, number>(
    (items) => {
      turns.push(items.length);
      return Promise.resolve(items);
    },
    { most: 4 },
  );
  const all = Array.from({ length: 10 }, (_none, at) => at);
  expect(await Promise.all(all.map((item) => same.do(item)))).toEqual(all);
  expect(turns).toEqual([4, 4, 2]);
});

test('when a turn fails, its items are tried one by one, and only the one that is wrong fails', async () => {
  const whole = new Gather<number, number>((items) =>
    items.includes(3) ? Promise.reject(new Error('three')) : Promise.resolve(items),
  );
  const results = await Promise.allSettled([1, 2, 3, 4].map((item) => whole.do(item)));
  expect(results.map(({ status }) => status)).toEqual(['fulfilled', 'fulfilled', 'rejected', 'fulfilled']);
});

test('where the database is away nobody is tried alone', async () => {
  let turns = 0;
  const away = new Gather<number, number>(() => {
    turns++;
    return Promise.reject(Object.assign(new Error('gone'), { code: '57P01' }));
  });
  const results = await Promise.allSettled([1, 2, 3].map((item) => away.do(item)));
  expect(results.map(({ status }) => status)).toEqual(['rejected', 'rejected', 'rejected']);
  expect(turns).toBe(1);
});

test('work that forgets an item is an error of that turn, not a result of nothing', async () => {
  const short = new Gather<number, number>(() => Promise.resolve([]));
  await expect(short.do(1)).rejects.toThrow('1 items came to 0 results');
});

test('every item gets its own result, however the askers come and whatever fails', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.record({ item: fc.integer(), after: fc.nat(3) }), { maxLength: 40 }),
      fc.integer({ min: 1, max: 7 }),
      fc.integer({ min: 1, max: 3 }),
      async (asked, most, atOnce) => {
        let running = 0;
        let highest = 0;
        const gather = new Gather<number, string>(
          async (items) => {
            highest = Math.max(highest, ++running);
            await pause(1);
            running--;
            if (items.some((item) => item % 5 === 0)) throw new Error('a fifth');
            return items.map((item) => `${item}`);
          },
          { most, atOnce },
        );
        const results = await Promise.allSettled(
          asked.map(async ({ item, after }) => {
            await pause(after);
            return gather.do(item);
          }),
        );
        expect(results.map((each) => (each.status === 'fulfilled' ? each.value : 'failed'))).toEqual(
          asked.map(({ item }) => (item % 5 === 0 ? 'failed' : `${item}`)),
        );
        expect(highest).toBeLessThanOrEqual(atOnce);
      },
    ),
    { numRuns: 40 },
  );
});
