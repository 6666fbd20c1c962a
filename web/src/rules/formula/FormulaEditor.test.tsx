import { EditorView } from '@codemirror/view';
import { act, fireEvent, screen, waitFor } from '@testing-library/react';
import { useState } from 'react';
import { scopeAt, type Right } from '@vast-knot/core';
import { rightsOf, show } from '../../testing/app';
import { line, ruleWith, surroundings } from '../../work/testWorld';
import { FormulaEditor, insertInto, type FormulaMistake } from './FormulaEditor';

const scope = scopeAt(ruleWith([line('name', 'name')]), 'actions/0/lines/name/formula', surroundings);
const told = { changed: jest.fn(), entered: jest.fn(), moved: jest.fn(), left: jest.fn() };
beforeEach(() => jest.clearAllMocks());

function Shown({ start, mistakes = [] }: { start: string; mistakes?: readonly FormulaMistake[] }) {
  const [value, setValue] = useState(start);
  return (
    <>
      <FormulaEditor
        label="Formula for name"
        placeholder="not written"
        value={value}
        scope={scope}
        mistakes={mistakes}
        onChange={(next) => {
          told.changed(next);
          setValue(next);
        }}
        onEnter={told.entered}
        onMove={told.moved}
        onEscape={told.left}
      />
      <button onClick={() => setValue('LOWER(town)')}>From outside</button>
    </>
  );
}

function open(start: string, mistakes?: readonly FormulaMistake[], rights?: readonly Right[]) {
  const shown = show(<Shown start={start} {...(mistakes && { mistakes })} />, rights);
  const content = screen.getByLabelText('Formula for name', { selector: '.cm-content' });
  const found = EditorView.findFromDOM(content);
  if (!found) throw new Error('there is no editor');
  return { ...shown, content, view: found };
}

/** Types at the end, as the keyboard does. */
function type(view: EditorView, text: string): void {
  const { length } = view.state.doc;
  act(() => {
    view.focus();
    view.dispatch({
      changes: { from: length, insert: text },
      selection: { anchor: length + text.length },
      userEvent: 'input.type',
    });
  });
}

const offered = () => [...document.querySelectorAll('.cm-completionLabel')].map((each) => each.textContent);

test('what is typed is told at once; what comes from outside is shown and not told again', async () => {
  const { view, user } = open('');
  expect(view.dom.textContent).toContain('not written');
  type(view, 'name');
  await waitFor(() => expect(told.changed).toHaveBeenLastCalledWith('name'));
  await user.click(screen.getByRole('button', { name: 'From outside' }));
  await waitFor(() => expect(view.state.doc.toString()).toBe('LOWER(town)'));
  expect(told.changed).toHaveBeenCalledTimes(1);
});

test.each([
  ['to', ['town']],
  ['before.', ['before.chief', 'before.id', 'before.name', 'before.town']],
  ['party.zo', ['party.zone']],
  ['TABLE("', ['Zones']],
])('after %s the names that can stand there are offered', async (typed, names) => {
  const { view } = open('');
  type(view, typed);
  await waitFor(() => expect(offered().length).toBeGreaterThan(0));
  const shown = offered();
  const bare = names.map((name) => name.split('.').at(-1));
  expect(names.filter((name, at) => shown.includes(name) || shown.includes(bare[at] ?? name))).toEqual(names);
});

test('Enter takes what is offered, and goes on to the next formula only when nothing is', async () => {
  const { view, content } = open('');
  type(view, 'tow');
  await waitFor(() => expect(offered()).toContain('town'));
  // The list does not listen in the first moment, so that it does not take a key meant for the text.
  await waitFor(() => {
    fireEvent.keyDown(content, { key: 'Enter' });
    expect(view.state.doc.toString()).toBe('town');
  });
  expect(told.entered).not.toHaveBeenCalled();
  fireEvent.keyDown(content, { key: 'Enter' });
  expect(told.entered).toHaveBeenCalledTimes(1);
  expect(view.state.doc.toString()).toBe('town');
});

test('the keys go up and down the ledger and out of it', () => {
  const { content } = open('name');
  fireEvent.keyDown(content, { key: 'ArrowDown', altKey: true });
  fireEvent.keyDown(content, { key: 'ArrowUp', altKey: true });
  fireEvent.keyDown(content, { key: 'Escape' });
  expect(told.moved.mock.calls).toEqual([[1], [-1]]);
  expect(told.left).toHaveBeenCalledTimes(1);
});

test('in a call the part at hand is shown with what the function does', async () => {
  const { view } = open('');
  type(view, 'LEFT(name, ');
  await waitFor(() => expect(document.querySelector('.signature-help code')?.textContent).toMatch(/^LEFT\(/));
  const strong = document.querySelector('.signature-help strong')?.textContent;
  expect(strong).not.toBe('');
  expect(document.querySelector('.signature-help code')?.textContent).not.toBe(`LEFT(${strong ?? ''}`);
});

test('a mistake is said to those who listen, underlined, and gone when it is mended', async () => {
  const mistake = { message: 'There is no field “nmae”.', start: 6, end: 10 };
  const { view, content, rerender } = open('UPPER(nmae)', [mistake]);
  expect(content.getAttribute('aria-invalid')).toBe('true');
  await waitFor(() => expect(view.dom.querySelector('.cm-lintRange-error')?.textContent).toBe('nmae'));
  // A mistake whose place is no longer in the text does not break the editor.
  type(view, '1');
  act(() => view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: '' } }));
  expect(view.state.doc.toString()).toBe('');
  rerender(<div />);
});

test('a pressed value goes in where the cursor stands', async () => {
  const { view } = open('UPPER()');
  act(() => view.dispatch({ selection: { anchor: 6 } }));
  act(() => insertInto(view, 'town'));
  await waitFor(() => expect(told.changed).toHaveBeenLastCalledWith('UPPER(town)'));
});

test('who may only look sees the formula, and cannot type in it', () => {
  const { content, view } = open('UPPER(name)', [], rightsOf('viewer'));
  expect(content.getAttribute('aria-readonly')).toBe('true');
  expect(content.getAttribute('contenteditable')).toBe('false');
  expect(view.state.readOnly).toBe(true);
  expect(content.textContent).toBe('UPPER(name)');
});

test('the help for a function goes when the editor is left, and comes again with it', async () => {
  const { view, user } = open('');
  type(view, 'UPPER(na');
  await waitFor(() => expect(document.querySelector('.signature-help')).toBeTruthy());
  await user.click(screen.getByText('From outside'));
  await waitFor(() => expect(document.querySelector('.signature-help')).toBeNull());
});
