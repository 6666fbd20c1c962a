import fc from 'fast-check';
import { KnownDigests } from './knownDigests';

test('it says of any records what a map of ids to digests says', () => {
  const steps = fc.array(
    fc.record({ id: fc.string({ maxLength: 3 }), digest: fc.option(fc.nat(5)), see: fc.boolean() }),
    { maxLength: 60 },
  );
  fc.assert(
    fc.property(steps, steps, (first, then) => {
      const digests = new KnownDigests();
      const map = new Map<string, number | null>();
      for (const { id, digest } of first) {
        digests.add(id, digest);
        map.set(id, digest);
      }
      const left = new Set(map.keys());
      for (const { id, digest } of then) {
        expect(digests.see(id, digest ?? 7)).toBe(map.get(id) === (digest ?? 7));
        left.delete(id);
      }
      for (const { id } of [...first, ...then]) expect(digests.isLeft(id)).toBe(left.has(id));
      expect(digests.anyLeft).toBe(left.size > 0);
    }),
  );
});

test('of two hundred thousand ids that look alike each has its own', () => {
  const digests = new KnownDigests();
  const ids = Array.from({ length: 200_000 }, (_none, at) => (at % 2 === 0 ? `P-${at}` : String(at)));
  ids.forEach((id, at) => digests.add(id, at));
  expect(ids.every((id, at) => digests.see(id, at))).toBe(true);
  expect(digests.anyLeft).toBe(false);
  expect(digests.see('P-1', 1)).toBe(false);
});
