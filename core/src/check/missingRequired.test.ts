import { creating, line, rule, said } from './testDesk';

test('a required field without a line keeps a record from being created', () => {
  expect(said(creating([line('zone', '"A1"')]), 'missing required')).toEqual([
    'error: “Title” of party is required and has no line; the record cannot be created.',
  ]);
  expect(said(creating([line('title', '"x"')]), 'missing required')).toEqual([]);
});

test('a record that is only written to has its required fields already', () => {
  expect(said(rule([line('zone', '"A1"')]), 'missing required')).toEqual([]);
});
