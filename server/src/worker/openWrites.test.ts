import { OpenWrites, type ReadOpen, type Stage } from './openWrites';
import type { WaitingWrite } from '../runs/plan';

const write = (seq: number, depth: number, creates = false): WaitingWrite => ({
  runId: '1',
  plan: 1,
  seq,
  key: `k${seq}`,
  state: 'planned',
  planned: {
    change: creates
      ? { kind: 'create', ref: { system: 'desk', recordType: 'job', id: `J${seq}` }, record: {} }
      : { kind: 'edit', ref: { system: 'desk', recordType: 'job', id: `J${seq}` }, edits: [] },
    rules: [],
    depth,
    before: {},
  },
});

/** Takes everything, three at a time, and tells each stage with the places of its writes. */
async function taken(open: OpenWrites): Promise<readonly string[]> {
  const all: string[] = [];
  for (let stage = await open.stage(); stage; stage = await open.stage()) {
    const seqs: number[] = [];
    for (let some = await open.take(stage, 3); some.length > 0; some = await open.take(stage, 3))
      seqs.push(...some.map(({ seq }) => seq));
    all.push(`${stage.depth}${stage.creating ? ' creating' : ''}: ${seqs.join(' ')}`);
  }
  return all;
}

const never: ReadOpen = () => Promise.reject(new Error('nothing is to be read'));

test('writes at hand are given in stages: by depth, and creating ones apart', async () => {
  const plan = [write(0, 0, true), write(1, 0), write(2, 0), write(3, 0), write(4, 0), write(5, 1)];
  expect(await taken(new OpenWrites(never, plan))).toEqual(['0 creating: 0', '0: 1 2 3 4', '1: 5']);
});

test('a plan that is not at hand is read in parts, each after the last write of the one before', async () => {
  const plan = Array.from({ length: 1201 }, (_, seq) => write(seq, 0));
  const asked: (number | undefined)[] = [];
  const read: ReadOpen = (after, most) => {
    asked.push(after?.seq);
    const from = after ? after.seq + 1 : 0;
    return Promise.resolve(plan.slice(from, from + most));
  };
  const [only] = await taken(new OpenWrites(read, undefined));
  expect(only?.split(' ').slice(1)).toEqual(plan.map(({ seq }) => String(seq)));
  expect(asked).toEqual([undefined, 499, 999]);
});

test('lanes that take at the same time get different writes', async () => {
  const plan = Array.from({ length: 700 }, (_, seq) => write(seq, 0));
  const read: ReadOpen = async (after, most) => {
    await new Promise((done) => setTimeout(done, 1));
    const from = after ? after.seq + 1 : 0;
    return plan.slice(from, from + most);
  };
  const open = new OpenWrites(read, undefined);
  const stage: Stage = { depth: 0, creating: false };
  const lanes = await Promise.all(Array.from({ length: 8 }, () => open.take(stage, 100)));
  expect(lanes.map((some) => some.length)).toEqual([100, 100, 100, 100, 100, 100, 100, 0]);
  expect(new Set(lanes.flat().map(({ seq }) => seq)).size).toBe(700);
});

test('a run without open writes has no stage', async () => {
  expect(await new OpenWrites(() => Promise.resolve([]), undefined).stage()).toBeUndefined();
});
