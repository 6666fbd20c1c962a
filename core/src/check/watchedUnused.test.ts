import { line, mended, said, watching } from './testDesk';

test('a field that is watched and used nowhere is told', () => {
  const subject = watching(['status', 'credit'], [line('state', 'status')]);
  expect(said(subject, 'watched and unused')).toEqual([
    'note: “Credit” is watched and used nowhere: its change starts the rule for nothing.',
  ]);
  expect(mended(subject, 'watched and unused').trigger.watched).toEqual(['status']);
});
