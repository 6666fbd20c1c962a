import { optionLines, optionsIn } from './optionLines';

test('options are read as they are written, one to a line', () => {
  const options = [
    { value: 'UP', label: 'Keep upright' },
    { value: 'Fragile', label: 'Fragile' },
    { value: 'a=b', label: 'a=b' },
    { value: 'EQ', label: 'x = y = z' },
  ];
  expect(optionLines(options)).toBe('UP = Keep upright\nFragile\na=b = a=b\nEQ = x = y = z');
  expect(optionsIn(optionLines(options))).toEqual(options);
});

test('what is half typed is read as far as it goes', () => {
  expect(optionsIn('\n CH =  \n\n=x\nUP=Keep upright')).toEqual([
    { value: 'CH', label: 'CH' },
    { value: 'UP', label: 'Keep upright' },
  ]);
});
