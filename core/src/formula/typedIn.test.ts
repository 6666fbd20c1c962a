import fc from 'fast-check';
import type { Json } from '../model/json';
import type { Field, FieldType } from '../model/system';
import { typedIn, typedReader } from './typedIn';

const types: readonly FieldType[] = [
  'text',
  'integer',
  'decimal',
  'boolean',
  'date',
  'datetime',
  'reference',
  'multichoice',
];

test('law: reading many values of a field gives what reading one gives', () => {
  const text = fc.oneof(
    fc.string({ maxLength: 12, unit: 'grapheme' }),
    fc.stringMatching(/^-?[0-9]{0,17}([.][0-9]{0,17})?$/),
    fc.stringMatching(/^[0-9]{4}-[01][0-9]-[0-3][0-9]$/),
    fc.constantFrom(
      '-0',
      '0',
      '00',
      '1e3',
      ' 7 ',
      '+7',
      '.5',
      '5.',
      '0.10',
      '999999999999999',
      '9999999999999999',
      '0.1234567890123456',
    ),
  );
  const value = fc.oneof<fc.Arbitrary<Json>[]>(
    text,
    fc.integer(),
    fc.double({ noNaN: true, noDefaultInfinity: true }),
    fc.boolean(),
    fc.constant(null),
    fc.array(text, { maxLength: 2 }),
  );
  const field = fc.record({
    type: fc.constantFrom(...types),
    required: fc.boolean(),
    maxLength: fc.constantFrom(3, 10, 60),
    min: fc.constantFrom(-10, 0),
    max: fc.constantFrom(100, 1e15),
  });
  fc.assert(
    fc.property(field, value, (rest, json) => {
      const one: Field = { name: 'f', label: 'F', ...rest };
      expect(typedReader(one)(json)).toEqual(typedIn(one, json));
    }),
    { numRuns: 5000 },
  );
});
