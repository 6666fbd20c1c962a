import { emptyConnection, type HttpDraft } from '@vast-knot/core';
import { hasOwn, styleIn, withNewType, withOwn, withPart, withTaken } from './styleEdits';

const empty: HttpDraft = {
  system: { key: 'quay', tag: 'QU', name: 'Quay', hue: 1 },
  recordTypes: [],
  connection: emptyConnection,
  proposed: {},
  reasons: [],
  leftOut: [],
  origin: '',
};
const both = withNewType(withNewType(empty, 'pier'), 'ship');

test('what is changed is usual for all, until a type has it for itself', () => {
  const etag = { kind: 'etag' as const };
  const forAll = withPart(both, 'pier', 'version', etag);
  expect([styleIn(forAll, 'pier').version, styleIn(forAll, 'ship').version]).toEqual([etag, etag]);
  const own = withPart(withOwn(both, 'pier', 'version', true), 'pier', 'version', etag);
  expect([styleIn(own, 'pier').version, styleIn(own, 'ship').version]).toEqual([etag, { kind: 'none' }]);
  expect([hasOwn(own, 'pier', 'version'), hasOwn(own, 'ship', 'version')]).toEqual([true, false]);
  expect(styleIn(withOwn(own, 'pier', 'version', false), 'pier').version).toEqual({ kind: 'none' });
});

test('a type can be without what all others have', () => {
  const removing = { method: 'DELETE' as const, path: '{path}/{id}' };
  const forAll = withPart(both, 'pier', 'removing', removing);
  const without = withPart(withOwn(forAll, 'ship', 'removing', true), 'ship', 'removing', undefined);
  expect([styleIn(without, 'pier').removing, styleIn(without, 'ship').removing]).toEqual([
    removing,
    undefined,
  ]);
});

test('a type that is left out keeps its fields and how it was reached, and can be taken again', () => {
  const own = withPart(withOwn(both, 'pier', 'version', true), 'pier', 'version', { kind: 'etag' });
  const out = withTaken(own, 'pier', false);
  expect(Object.keys(out.connection.recordTypes)).toEqual(['ship']);
  expect(out.recordTypes.map(({ name }) => name)).toEqual(['pier', 'ship']);
  expect(styleIn(withTaken(out, 'pier', true), 'pier')).toMatchObject({
    path: '/pier',
    version: { kind: 'etag' },
  });
});

test('a type that was only proposed is taken as it was proposed', () => {
  const proposed = {
    ...both,
    proposed: { buoy: { path: '/marks/buoys', version: { kind: 'etag' as const } } },
  };
  expect(styleIn(withTaken(proposed, 'buoy', true), 'buoy')).toMatchObject({
    path: '/marks/buoys',
    version: { kind: 'etag' },
  });
});
