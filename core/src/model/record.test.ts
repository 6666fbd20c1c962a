import fc from 'fast-check';
import { refKey, refOf } from './record';

test('a key leads back to its record, whatever stands in the id', () => {
  const word = fc.stringMatching(/^[\w-]{1,12}$/);
  fc.assert(
    fc.property(word, word, fc.string(), (system, recordType, id) => {
      expect(refOf(refKey({ system, recordType, id }))).toEqual({ system, recordType, id });
    }),
  );
});

test('a key without an id names the type alone', () => {
  expect(refOf('desk/job')).toEqual({ system: 'desk', recordType: 'job', id: '' });
});
