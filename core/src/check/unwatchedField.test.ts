import { creating, find, line, mended, said, watching } from './testDesk';

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
    const subject = creating([line('title', 'LEFT(name, 60)')], {
      trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['status'] },
      guard: 'status = "active"',
    });
    expect(said(subject, 'unwatched field')).toEqual([]);
  });

  test('watching nothing in particular watches everything', () => {
    expect(said(watching([], [line('state', 'status')]), 'unwatched field')).toEqual([]);
  });
});
