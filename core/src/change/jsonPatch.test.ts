/**
 * The examples of RFC 6902, appendix A, and of RFC 6901, section 5. The texts of both were written down from memory.
 */
import fc from 'fast-check';
import { applyPatch } from 'fast-json-patch';
import { applyChange, changeToJsonPatch, invertChange, type RecordChange } from './recordChange';
import { editsBetween } from './edit';
import { fieldsOf } from './fields';
import type { Json, JsonObject } from '../model/json';
import { changeFromJsonPatch, patchDocument, type Operation } from './jsonPatch';
import { pointerOfPath, readPointer } from '../formats/jsonPointer';

const applies: readonly [string, Json, unknown[], Json][] = [
  [
    'A.1 adding an object member',
    { foo: 'bar' },
    [{ op: 'add', path: '/baz', value: 'qux' }],
    { baz: 'qux', foo: 'bar' },
  ],
  [
    'A.2 adding an array element',
    { foo: ['bar', 'baz'] },
    [{ op: 'add', path: '/foo/1', value: 'qux' }],
    { foo: ['bar', 'qux', 'baz'] },
  ],
  [
    'A.3 removing an object member',
    { baz: 'qux', foo: 'bar' },
    [{ op: 'remove', path: '/baz' }],
    { foo: 'bar' },
  ],
  [
    'A.4 removing an array element',
    { foo: ['bar', 'qux', 'baz'] },
    [{ op: 'remove', path: '/foo/1' }],
    { foo: ['bar', 'baz'] },
  ],
  [
    'A.5 replacing a value',
    { baz: 'qux', foo: 'bar' },
    [{ op: 'replace', path: '/baz', value: 'boo' }],
    { baz: 'boo', foo: 'bar' },
  ],
  [
    'A.6 moving a value',
    { foo: { bar: 'baz', waldo: 'fred' }, qux: { corge: 'grault' } },
    [{ op: 'move', from: '/foo/waldo', path: '/qux/thud' }],
    { foo: { bar: 'baz' }, qux: { corge: 'grault', thud: 'fred' } },
  ],
  [
    'A.7 moving an array element',
    { foo: ['all', 'grass', 'cows', 'eat'] },
    [{ op: 'move', from: '/foo/1', path: '/foo/3' }],
    { foo: ['all', 'cows', 'eat', 'grass'] },
  ],
  [
    'A.8 testing a value: success',
    { baz: 'qux', foo: ['a', 2, 'c'] },
    [
      { op: 'test', path: '/baz', value: 'qux' },
      { op: 'test', path: '/foo/1', value: 2 },
    ],
    { baz: 'qux', foo: ['a', 2, 'c'] },
  ],
  [
    'A.10 adding a nested member object',
    { foo: 'bar' },
    [{ op: 'add', path: '/child', value: { grandchild: {} } }],
    { foo: 'bar', child: { grandchild: {} } },
  ],
  [
    'A.11 ignoring unrecognised elements',
    { foo: 'bar' },
    [{ op: 'add', path: '/baz', value: 'qux', xyz: 123 }],
    { foo: 'bar', baz: 'qux' },
  ],
  [
    'A.14 escape ordering',
    { '/': 9, '~1': 10 },
    [{ op: 'test', path: '/~01', value: 10 }],
    { '/': 9, '~1': 10 },
  ],
  [
    'A.16 adding an array value',
    { foo: ['bar'] },
    [{ op: 'add', path: '/foo/-', value: ['abc', 'def'] }],
    { foo: ['bar', ['abc', 'def']] },
  ],
];

const fails: readonly [string, Json, unknown[]][] = [
  ['A.9 testing a value: error', { baz: 'qux' }, [{ op: 'test', path: '/baz', value: 'bar' }]],
  ['A.12 adding to a nonexistent target', { foo: 'bar' }, [{ op: 'add', path: '/baz/bat', value: 'qux' }]],
  ['A.15 comparing strings and numbers', { '/': 9, '~1': 10 }, [{ op: 'test', path: '/~01', value: '10' }]],
  ['a pointer without slash', { foo: 'bar' }, [{ op: 'add', path: 'foo', value: 1 }]],
  ['a path into a prototype', { foo: 'bar' }, [{ op: 'add', path: '/__proto__/x', value: 1 }]],
  ['an add without value', { foo: 'bar' }, [{ op: 'add', path: '/x' }]],
];

describe('RFC 6902, appendix A', () => {
  test.each(applies)('%s', (_name, document, operations, result) => {
    expect(patchDocument(document, operations as Operation[])).toEqual({ ok: true, document: result });
  });

  test.each(fails)('%s is refused', (_name, document, operations) => {
    expect(patchDocument(document, operations as Operation[]).ok).toBe(false);
  });

  test('A.13: of two members “op” JSON parsing keeps the last, and the patch is then refused for what it asks', () => {
    const operations = JSON.parse(
      '[{ "op": "add", "path": "/baz", "value": "qux", "op": "remove" }]',
    ) as Operation[];
    expect(patchDocument({ foo: 'bar' }, operations).ok).toBe(false);
  });

  test('a patch that fails half way leaves nothing behind', () => {
    const document = { a: 1 };
    patchDocument(document, [
      { op: 'replace', path: '/a', value: 2 },
      { op: 'remove', path: '/none' },
    ]);
    expect(document).toEqual({ a: 1 });
  });
});

describe('RFC 6901, section 5', () => {
  const document = {
    foo: ['bar', 'baz'],
    '': 0,
    'a/b': 1,
    'c%d': 2,
    'e^f': 3,
    'g|h': 4,
    'i\\j': 5,
    'k"l': 6,
    ' ': 7,
    'm~n': 8,
  };
  test.each([
    ['', document],
    ['/foo', ['bar', 'baz']],
    ['/foo/0', 'bar'],
    ['/', 0],
    ['/a~1b', 1],
    ['/c%d', 2],
    ['/e^f', 3],
    ['/g|h', 4],
    ['/i\\j', 5],
    ['/k"l', 6],
    ['/ ', 7],
    ['/m~0n', 8],
    ['/foo/01', undefined],
    ['/constructor', undefined],
  ])('%j', (pointer, value) => expect(readPointer(document, pointer)).toEqual(value));

  test('a dotted path as a pointer', () => expect(pointerOfPath('a/b.m~n')).toBe('/a~1b/m~0n'));
});

describe('record changes', () => {
  const ref = { system: 'customer-book', recordType: 'company', id: 'C-1' };
  const record = fc.dictionary(
    fc.constantFrom('name', 'phone', 'town', 'note'),
    fc.oneof(
      fc.string(),
      fc.integer(),
      fc.constant(null),
      fc.dictionary(fc.constantFrom('x', 'y'), fc.nat(), { noNullPrototype: true }),
    ),
    { noNullPrototype: true },
  );
  const change = fc
    .tuple(record, record)
    .map(([before, after]): [JsonObject, RecordChange] => [
      before,
      { kind: 'edit', ref, edits: editsBetween(before, after) },
    ]);

  test('applying a change and then its inverse gives the record back', () => {
    fc.assert(
      fc.property(change, ([before, edit]) => {
        const there = applyChange(edit, before);
        const back = applyChange(invertChange(edit), there.ok ? there.record : undefined);
        expect(back).toEqual({ ok: true, record: before });
      }),
    );
  });

  test('a change carried as JSON Patch does the same to the document', () => {
    fc.assert(
      fc.property(change, ([before, edit]) => {
        const applied = applyChange(edit, before);
        const patched = patchDocument(before, changeToJsonPatch(edit));
        expect(patched).toEqual({ ok: true, document: applied.ok ? applied.record : 'not applied' });
        const read = changeFromJsonPatch(ref, before, changeToJsonPatch(edit));
        expect(read).toEqual({ ok: true, change: edit });
      }),
    );
  });

  test('a second implementation of RFC 6902, the package fast-json-patch, makes the same of it', () => {
    fc.assert(
      fc.property(change, ([before, edit]) => {
        const applied = applyChange(edit, before);
        const document = JSON.parse(JSON.stringify(before)) as JsonObject;
        // Asked to be strict, it refuses an operation on a member that is not there.
        const { newDocument } = applyPatch(document, changeToJsonPatch(edit) as never, true);
        expect(newDocument).toEqual(applied.ok ? applied.record : 'not applied');
      }),
      { numRuns: 500 },
    );
  });

  test('fields in objects are named by their paths, in what is created as in what is changed', () => {
    const whole: RecordChange = {
      kind: 'create',
      ref,
      record: { id: 'X', address: { gate: 'G1', town: null } },
    };
    const coming: RecordChange = {
      kind: 'edit',
      ref,
      edits: editsBetween({ id: 'X' }, { id: 'X', address: { gate: 'G1' } }),
    };
    const changing: RecordChange = {
      kind: 'edit',
      ref,
      edits: editsBetween({ address: { gate: 'G0' } }, { address: { gate: 'G1' } }),
    };
    for (const each of [whole, coming, changing])
      expect(fieldsOf(each)).toContainEqual(expect.objectContaining({ path: 'address.gate', after: 'G1' }));
    expect(fieldsOf(whole).map(({ path }) => path)).toEqual(['id', 'address.gate', 'address.town']);
    expect(fieldsOf(invertChange(coming))).toEqual([
      { path: 'address.gate', before: 'G1', after: undefined },
    ]);
  });

  test('creation and removal undo each other', () => {
    const create: RecordChange = { kind: 'create', ref, record: { name: 'Skerry Cold Store' } };
    expect(invertChange(invertChange(create))).toEqual(create);
    expect(applyChange(invertChange(create), create.record)).toEqual({ ok: true, record: undefined });
  });

  test('an edit of a field that holds something else is refused by name', () => {
    const edit: RecordChange = { kind: 'edit', ref, edits: [{ path: 'phone', before: '1', after: '2' }] };
    expect(applyChange(edit, { phone: '3' })).toEqual({ ok: false, because: '“phone” no longer holds "1".' });
  });
});
