import type { RecordType } from '@vast-knot/core';
import {
  asking,
  fieldNameFor,
  moved,
  withFieldType,
  withItem,
  without,
  withNewQuestion,
  withoutField,
  type FormDraft,
} from './formEdits';

const type: RecordType = {
  name: 'wish',
  label: 'Wish',
  plural: 'Wishes',
  idField: 'number',
  nameField: 'number',
  fields: [
    { name: 'number', label: 'Number', type: 'text', readOnly: true },
    { name: 'care', label: 'Care', type: 'multichoice', options: [{ value: 'UP', label: 'Upright' }] },
  ],
};
const draft: FormDraft = {
  type,
  form: {
    address: 'wish',
    title: 'Wish',
    intro: '',
    thanks: '',
    open: false,
    zone: 'UTC',
    items: [{ kind: 'question', field: 'care', hint: '', shown: '', few: 1, most: 2 }],
  },
};
const asked = ({ form }: FormDraft) =>
  form?.items.map((item) => (item.kind === 'question' ? item.field : item.kind));

test('a new question gets a field with a name that formulas can say', () => {
  const next = withNewQuestion(
    withNewQuestion(draft, 'What is its weight, in kg?'),
    'What is its weight in kg',
  );
  expect(asked(next)).toEqual(['care', 'whatIsItsWeightIn', 'whatIsItsWeightIn2']);
  expect(next.type.fields.at(-1)).toEqual({
    name: 'whatIsItsWeightIn2',
    label: 'What is its weight in kg',
    type: 'text',
  });
  expect(fieldNameFor('重さ', type)).toBe('answer');
  expect(fieldNameFor('2 words', type)).toBe('words');
});

test('questions move, and what is taken off the page keeps its field until that is taken out', () => {
  const two = withNewQuestion(draft, 'Berth');
  expect(asked(moved(two, 1, -1))).toEqual(['berth', 'care']);
  expect(moved(two, 0, -1)).toBe(two);
  const off = without(two, 1);
  expect(asked(off)).toEqual(['care']);
  expect(off.type.fields.map(({ name }) => name)).toContain('berth');
  expect(asked(asking(off, 'berth'))).toEqual(['care', 'berth']);
  expect(withoutField(off, 'berth').type).toEqual(type);
});

test('a question of another type keeps nothing that only the old one has', () => {
  const next = withFieldType(draft, 0, 'care', 'text');
  expect(next.type.fields[1]).toEqual({ name: 'care', label: 'Care', type: 'text' });
  expect(next.form?.items[0]).toEqual({ kind: 'question', field: 'care', hint: '', shown: '' });
});

test('one item is changed by its place', () => {
  const next = withItem(draft, 0, (item) => ({ ...item, shown: 'TRUE()' }));
  expect(next.form?.items[0]?.shown).toBe('TRUE()');
  expect(draft.form?.items[0]?.shown).toBe('');
});
