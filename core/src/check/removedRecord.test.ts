import { line, rule, said } from './testDesk';

const started = (kinds: readonly ('updated' | 'deleted' | 'created')[], target: string) =>
  rule([], {
    trigger: { system: 'book', recordType: 'company', kinds, watched: [] },
    actions: [{ kind: 'write', target, lines: [line('name', '"gone"')] }],
  });

describe('a record that is deleted', () => {
  test('what starts when it is deleted cannot write to it', () => {
    expect(said(started(['deleted'], 'record'), 'removed record')).toEqual([
      'error: The rule starts when the company is deleted: it is not there any more when this would be done to it.',
    ]);
  });

  test('where other events start the rule too, it is a warning', () => {
    expect(said(started(['updated', 'deleted'], 'record'), 'removed record')).toEqual([
      expect.stringMatching(/^warning: When the company is deleted, this fails/),
    ]);
  });

  test('other records can be written, and other events have their record', () => {
    expect(said(started(['deleted'], 'party'), 'removed record')).toEqual([]);
    expect(said(started(['created', 'updated'], 'record'), 'removed record')).toEqual([]);
  });
});
