import { linesIn } from '../engine/actions';
import { find, line, mended, rule, said } from './testDesk';

describe('names', () => {
  test('a misspelt field is put right by the fix', () => {
    const subject = rule([line('title', 'LEFT(nam, 60)')]);
    expect(said(subject, 'mistake')).toEqual([
      'error: The triggering record has no field “nam”. Did you mean “name”?',
    ]);
    expect(find(mended(subject, 'mistake'))).toEqual([]);
  });

  test('a misspelt function is put right by the fix, in brackets too', () => {
    const after = mended(rule([line('title', '(UPER(LEFT(name, 60)))')]), 'mistake');
    expect(linesIn(after.actions[0])[0]?.formula).toBe('(UPPER(LEFT(name, 60)))');
  });

  test('text joined with + is joined with & by the fix, wherever it stands', () => {
    const subject = rule([line('title', 'LEFT(REPT("+", 1 + 1) & (name + status), 60)')]);
    expect(said(subject, 'mistake')).toEqual(['error: “+” takes numbers, and this is text. “&” joins text.']);
    const after = mended(subject, 'mistake');
    expect(linesIn(after.actions[0])[0]?.formula).toBe('LEFT(REPT("+", 1 + 1) & (name & status), 60)');
  });

  test('a mistake in one line does not hide the findings of the others', () => {
    const kinds = find(rule([line('title', 'LEFT(nam, 60)'), line('number', 'name')])).map(
      ({ kind }) => kind,
    );
    expect(kinds).toEqual(['mistake', 'too long']);
  });

  test('a reference that is given the found record itself is offered its id', () => {
    const after = mended(rule([line('agent', ' party')]), 'mistake');
    expect(linesIn(after.actions[0])[0]?.formula).toBe('party.id');
    // A field that is no reference wants a field of it, which nobody can know.
    expect(() => mended(rule([line('title', 'party')]), 'mistake')).toThrow('no fix');
  });
});
