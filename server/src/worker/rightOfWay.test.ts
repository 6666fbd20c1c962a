import { RightOfWay } from './rightOfWay';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

/** Stands aside, and says how many milliseconds passed; undefined while it still does. */
function standingAside(way: RightOfWay, mostMs: number): { waited: number | undefined } {
  const seen: { waited: number | undefined } = { waited: undefined };
  const began = Date.now();
  void way.standAside(mostMs).then(() => (seen.waited = Date.now() - began));
  return seen;
}

test('a large run waits for nobody while no lone event is dealt with', async () => {
  const seen = standingAside(new RightOfWay(Date.now), 200);
  await jest.advanceTimersByTimeAsync(0);
  expect(seen.waited).toBe(0);
});

test('a large run goes on once the last of the lone events has ended', async () => {
  const way = new RightOfWay(Date.now);
  const endFirst = way.begin();
  const endSecond = way.begin();
  const seen = standingAside(way, 200);
  await jest.advanceTimersByTimeAsync(30);
  endFirst();
  await jest.advanceTimersByTimeAsync(20);
  expect(seen.waited).toBeUndefined();
  endSecond();
  endSecond();
  await jest.advanceTimersByTimeAsync(0);
  expect(seen.waited).toBe(50);
});

test('a large run stands aside no longer than it says, however many lone events come', async () => {
  const way = new RightOfWay(Date.now);
  way.begin();
  const seen = standingAside(way, 200);
  await jest.advanceTimersByTimeAsync(150);
  way.begin();
  await jest.advanceTimersByTimeAsync(50);
  expect(seen.waited).toBe(200);
});

test('an event that takes more than a second is no lone one any more', async () => {
  const way = new RightOfWay(Date.now);
  way.begin();
  await jest.advanceTimersByTimeAsync(900);
  const seen = standingAside(way, 5000);
  await jest.advanceTimersByTimeAsync(100);
  expect(seen.waited).toBe(100);
  const after = standingAside(way, 5000);
  await jest.advanceTimersByTimeAsync(0);
  expect(after.waited).toBe(0);
});

test('two that stand aside go on at the same time', async () => {
  const way = new RightOfWay(Date.now);
  const end = way.begin();
  const both = [standingAside(way, 300), standingAside(way, 300)];
  await jest.advanceTimersByTimeAsync(40);
  end();
  await jest.advanceTimersByTimeAsync(0);
  expect(both).toEqual([{ waited: 40 }, { waited: 40 }]);
});
