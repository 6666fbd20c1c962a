import type { Field, RecordType } from '@vast-knot/core';
import { ofType, optionsText, readOptions, withFields, withNewField } from './fieldEdits';
import { withMember } from '../../parts/withMember';

const type: RecordType = {
  name: 'pier',
  label: 'Pier',
  plural: 'Piers',
  idField: 'id',
  nameField: 'id',
  fields: [
    { name: 'id', label: 'Id', type: 'text', maxLength: 9 },
    {
      name: 'place',
      label: 'Place',
      type: 'object',
      fields: [{ name: 'town', label: 'Town', type: 'text' }],
    },
  ],
};

test('several fields are changed at once, within objects too, and taken out', () => {
  const changed = withFields(type, new Set(['id', 'place.town']), (field) =>
    withMember(field, 'readOnly', true),
  );
  expect(changed.fields[0]?.readOnly).toBe(true);
  expect(changed.fields[1]?.fields?.[0]?.readOnly).toBe(true);
  expect(withFields(type, new Set(['place.town']), () => undefined).fields[1]?.fields).toEqual([]);
  expect(withMember({ ...type.fields[0], readOnly: true } as Field, 'readOnly', undefined)).toEqual(
    type.fields[0],
  );
});

test('a field of another type keeps what both have', () => {
  const id = type.fields[0] as Field;
  expect(ofType(id, 'choice')).toEqual({ name: 'id', label: 'Id', type: 'choice', options: [] });
  expect(ofType(id, 'text')).toEqual(id);
  expect(ofType({ ...id, type: 'integer', min: 1 }, 'decimal')).toMatchObject({ type: 'decimal', min: 1 });
});

test('a new field has a label from its name, and comes once', () => {
  const more = withNewField(type, 'postal_code');
  expect(more.fields.at(-1)).toEqual({ name: 'postal_code', label: 'Postal code', type: 'text' });
  expect(withNewField(more, 'postal_code')).toBe(more);
});

test('options are typed with commas between, and read back', () => {
  const options = readOptions('open = Open now, shut,, held=');
  expect(options).toEqual([
    { value: 'open', label: 'Open now' },
    { value: 'shut', label: 'shut' },
    { value: 'held', label: 'held' },
  ]);
  expect(optionsText({ ...(type.fields[0] as Field), options })).toBe('open = Open now, shut, held');
});
