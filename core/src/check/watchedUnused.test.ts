import { line, mended, said, watching } from './testDesk';

test('a field that is watched and used nowhere is told', () => {
  const subject = watching(['status', 'credit'], [line('state', 'status')]);
  expect(said(subject, 'watched and unused')).toEqual([
    'note: “Credit” is watched and used nowhere: its change starts the rule for nothing.',
  ]);
  expect(mended(subject, 'watched and unused').trigger.watched).toEqual(['status']);
});

test('a field whose change from or to a value starts the rule is used', () => {
  const subject = watching(['status', 'credit'], [line('state', 'name')]);
  const asked = { ...subject, trigger: { ...subject.trigger, turns: [{ field: 'status', to: 'active' }] } };
  expect(said(asked, 'watched and unused')).toEqual([
    'note: “Credit” is watched and used nowhere: its change starts the rule for nothing.',
  ]);
});
