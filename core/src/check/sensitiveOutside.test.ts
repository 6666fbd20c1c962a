import { line, rule, said } from './testDesk';

test('secret values are refused, personal ones warned of', () => {
  expect(said(rule([line('zone', 'LEFT(pin, 3)')]), 'sensitive outside')).toEqual([
    'error: “PIN” is secret and would leave for Desk.',
  ]);
  expect(said(rule([line('title', 'LEFT(phone, 60)')]), 'sensitive outside')).toEqual([
    'warning: “Phone” is personal; “Title” in Desk is not marked as holding personal values.',
  ]);
  expect(said(rule([line('ownerPhone', 'phone')]), 'sensitive outside')).toEqual([]);
});
