import { find, line, mended, rule, said, watching } from './testDesk';

describe('a field that is not watched', () => {
  test('a field that a line uses and the trigger does not watch is found, and watched by the fix', () => {
    const subject = watching(['status'], [line('title', 'LEFT(name, 60)'), line('state', 'status')]);
    expect(said(subject, 'unwatched field')).toEqual([
      'warning: “Name” is used here and not watched: a change of it alone is not written to “Title”.',
    ]);
    const after = mended(subject, 'unwatched field');
    expect(after.trigger.watched).toEqual(['status', 'name']);
    expect(find(after)).toEqual([]);
  });

  test('what creates a record takes the values of that moment, watched or not', () => {
    const creating = rule([], {
      trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['status'] },
      guard: 'status = "active"',
      finds: [],
      actions: [
        {
          kind: 'create',
          alias: 'made',
          system: 'desk',
          recordType: 'party',
          lines: [line('title', 'LEFT(name, 60)')],
        },
      ],
    });
    expect(said(creating, 'unwatched field')).toEqual([]);
  });

  test('watching nothing in particular watches everything', () => {
    expect(said(watching([], [line('state', 'status')]), 'unwatched field')).toEqual([]);
  });
});
