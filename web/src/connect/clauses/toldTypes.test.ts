import { readTypes, typesText } from './toldTypes';

test('kinds of messages are typed one on each line, and read back', () => {
  const types = readTypes(
    'a.changed = company updated\nb = cargo unit deleted\n\nnonsense\nc = company\nx=y = pier created',
  );
  expect(types).toEqual({
    'a.changed': { recordType: 'company', kind: 'updated' },
    b: { recordType: 'cargo unit', kind: 'deleted' },
    'x=y': { recordType: 'pier', kind: 'created' },
  });
  expect(readTypes(typesText(types))).toEqual(types);
});
