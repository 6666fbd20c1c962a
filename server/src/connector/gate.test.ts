import { WorkspaceError } from '@vast-knot/core';
import { Gate, pauseAsked, type GateLimits, type GateState, type Passage } from './gate';

beforeEach(() => jest.useFakeTimers({ now: new Date('2026-03-09T10:00:00Z') }));
afterEach(() => jest.useRealTimers());

const ok = (headers = {}) => Promise.resolve({ status: 200, headers });
const open = (limits: Partial<GateLimits> = {}) => {
  const told: GateState[] = [];
  const gate = new Gate({
    system: 'desk',
    limits: { atOnce: 2, patienceMs: 20_000, ...limits },
    changed: (state) => told.push(state),
  });
  return { gate, told };
};
const fails = (gate: Gate) =>
  gate.through(() => Promise.reject(new Error('refused'))).catch((thrown: unknown) => thrown);
/** What a request is refused with. */
async function refused(request: Promise<unknown>) {
  const thrown = await request.catch((reason: unknown) => reason);
  if (!(thrown instanceof WorkspaceError)) throw new Error(`it was not refused: ${String(thrown)}`);
  return thrown.problem;
}

describe('the breaker', () => {
  test('after three failures what wants the system is refused at once, with the time of the next try', async () => {
    const { gate } = open();
    for (let tries = 0; tries < 3; tries++) expect(await fails(gate)).toEqual(new Error('refused'));
    const send = jest.fn(ok);
    expect(await refused(gate.through(send))).toEqual({
      code: 'unavailable',
      message: 'desk does not answer (refused).',
      retry: true,
      waits: { system: 'desk', until: Date.now() + 1000, away: true },
    });
    expect(send).not.toHaveBeenCalled();
    expect(gate.state).toMatchObject({ standing: 'away', nextTry: Date.now() + 1000 });
  });

  test('a success in between begins the count anew', async () => {
    const { gate } = open();
    for (const step of [fails, fails, () => gate.through(() => ok()), fails, fails]) await step(gate);
    expect(gate.state.standing).toBe('answers');
  });

  test('then one tries; the others wait until it is answered, and all go on', async () => {
    const { gate, told } = open();
    for (let tries = 0; tries < 3; tries++) await fails(gate);
    jest.setSystemTime(Date.now() + 1000);
    let answer: (passage: { status: number; headers: Record<string, string> }) => void = () => undefined;
    const probe = gate.through(() => new Promise<Passage>((done) => (answer = done)));
    expect((await refused(gate.through(() => ok()))).waits?.system).toBe('desk');
    answer({ status: 200, headers: {} });
    await probe;
    expect((await gate.through(() => ok())).status).toBe(200);
    expect(told.map(({ standing }) => standing)).toEqual(['away', 'answers']);
  });

  test('somebody may let one try at once; where it fails, the pause goes on as if it had come by itself', async () => {
    const { gate } = open();
    for (let tries = 0; tries < 3; tries++) await fails(gate);
    gate.tryNow();
    expect(await fails(gate)).toEqual(new Error('refused'));
    expect(gate.state).toMatchObject({ standing: 'away', nextTry: Date.now() + 2000 });
    gate.tryNow();
    expect((await gate.through(() => ok())).status).toBe(200);
    expect(gate.state.standing).toBe('answers');
  });

  test('each failed try doubles the pause, to half a minute', async () => {
    const { gate } = open();
    for (let tries = 0; tries < 3; tries++) await fails(gate);
    const pauses: number[] = [];
    for (let tries = 0; tries < 7; tries++) {
      pauses.push((gate.state.nextTry ?? 0) - Date.now());
      jest.setSystemTime(gate.state.nextTry ?? 0);
      await fails(gate);
    }
    expect(pauses).toEqual([1000, 2000, 4000, 8000, 16_000, 30_000, 30_000]);
  });

  test('answers of 500 and above are failures; those that refuse a request are none', async () => {
    const { gate } = open();
    for (const status of [404, 409, 412, 422])
      await gate.through(() => Promise.resolve({ status, headers: {} }));
    expect(gate.state.standing).toBe('answers');
    for (let tries = 0; tries < 3; tries++)
      await gate.through(() => Promise.resolve({ status: 500, headers: {} }));
    expect(gate.state).toMatchObject({ standing: 'away', because: 'does not answer (it answered 500).' });
  });

  test('two requests without an answer for five seconds are enough: those that wait are refused', async () => {
    const { gate } = open();
    const hang = () => new Promise<never>(() => undefined);
    void gate.through(hang);
    void gate.through(hang);
    await jest.advanceTimersByTimeAsync(4500);
    const third = refused(gate.through(() => ok()));
    await jest.advanceTimersByTimeAsync(600);
    expect((await third).message).toBe('desk hangs: it takes requests and does not answer.');
    expect(gate.state.standing).toBe('away');
  });

  test('what another process found out counts here too', async () => {
    const { gate } = open();
    gate.hear('away', Date.now() + 5000, 'does not answer.');
    expect((await refused(gate.through(() => ok()))).waits?.until).toBe(Date.now() + 5000);
    gate.hear('away', Date.now() + 9000, 'does not answer.');
    gate.hear('away', Date.now() + 2000, 'does not answer.');
    expect(gate.state.nextTry).toBe(Date.now() + 9000);
    gate.hear('answers', undefined, '');
    expect((await gate.through(() => ok())).status).toBe(200);
  });
});

describe('the share of a system', () => {
  test('no more requests are on their way than it takes; the next goes when one is back', async () => {
    const { gate } = open();
    const backs: (() => void)[] = [];
    const send = () => new Promise<Passage>((done) => backs.push(() => done({ status: 200, headers: {} })));
    const all = [1, 2, 3].map(() => gate.through(send));
    await jest.advanceTimersByTimeAsync(10);
    expect(backs).toHaveLength(2);
    backs[0]?.();
    await jest.advanceTimersByTimeAsync(10);
    expect(backs).toHaveLength(3);
    backs.slice(1).forEach((back) => back());
    expect(await Promise.all(all)).toHaveLength(3);
  });

  test('work that would wait long gives its place back', async () => {
    const { gate } = open({ atOnce: 1 });
    void gate.through(() => new Promise<never>(() => undefined));
    const second = refused(gate.through(() => ok()));
    await jest.advanceTimersByTimeAsync(30_100);
    expect((await second).waits?.system).toBe('desk');
  });

  test('a budget of requests a second is kept to', async () => {
    const { gate } = open({ perSecond: 10, atOnce: 100 });
    let sent = 0;
    const all = Array.from({ length: 15 }, () =>
      gate.through(() => {
        sent++;
        return ok();
      }),
    );
    await jest.advanceTimersByTimeAsync(1);
    expect(sent).toBe(10);
    await jest.advanceTimersByTimeAsync(1000);
    await Promise.all(all);
    expect(sent).toBe(15);
  });
});

describe('what a system asks for', () => {
  const now = Date.parse('2026-03-09T10:00:00Z');
  test.each([
    // RFC 9110, 10.2.3: a number of seconds, or an HTTP date.
    [{ 'retry-after': '120' }, 120_000],
    [{ 'retry-after': 'Mon, 09 Mar 2026 10:00:30 GMT' }, 30_000],
    [{ 'retry-after': 'Mon, 09 Mar 2026 09:00:00 GMT' }, 0],
    [{ ratelimit: '"default";r=0;t=30' }, 30_000],
    [{ ratelimit: '"default";r=5;t=30' }, undefined],
    [{ ratelimit: 'limit=100, remaining=0, reset=50' }, 50_000],
    [{ 'ratelimit-remaining': '0', 'ratelimit-reset': '7' }, 7000],
    [{ 'ratelimit-remaining': '10', 'ratelimit-reset': '7' }, undefined],
    [{ 'retry-after': 'soon' }, undefined],
    [{}, undefined],
  ])('%p is a pause of %p ms', (headers, pause) => {
    expect(pauseAsked(headers, now)).toBe(pause);
  });

  test('after 429 the system is left alone for so long, and is not away', async () => {
    const { gate } = open();
    await gate.through(() => Promise.resolve({ status: 429, headers: { 'retry-after': '3' } }));
    expect(gate.state).toMatchObject({ standing: 'limited', nextTry: Date.now() + 3000 });
    const send = jest.fn(() => ok());
    const waiting = gate.through(send);
    await jest.advanceTimersByTimeAsync(2900);
    expect(send).not.toHaveBeenCalled();
    await jest.advanceTimersByTimeAsync(200);
    expect((await waiting).status).toBe(200);
    expect(gate.state.standing).toBe('answers');
  });

  test('what would have to wait long is put off until the system may be asked', async () => {
    const { gate } = open();
    await gate.through(() => Promise.resolve({ status: 429, headers: { 'retry-after': '120' } }));
    expect((await refused(gate.through(() => ok()))).waits?.until).toBe(Date.now() + 120_000);
  });
});

test('an end of the process ends what is on its way, as something to be tried again', async () => {
  const { gate } = open();
  const waiting = refused(
    gate.through(
      (signal) =>
        new Promise((_done, fail) => signal.addEventListener('abort', () => fail(new Error('aborted')))),
    ),
  );
  await jest.advanceTimersByTimeAsync(1);
  gate.end();
  expect(await waiting).toMatchObject({ code: 'unavailable', retry: true, waits: { system: 'desk' } });
  expect(gate.state.standing).toBe('answers');
});
