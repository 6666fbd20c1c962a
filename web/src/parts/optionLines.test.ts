import { optionLines, optionsIn } from './optionLines';

test('options are read as they are written, one to a line', () => {
  const options = [
    { value: 'UP', label: 'Keep upright' },
    { value: 'Fragile', label: 'Fragile' },
  ];
  expect(optionLines(options)).toBe('UP = Keep upright\nFragile');
  expect(optionsIn(optionLines(options))).toEqual(options);
  expect(optionsIn('\n CH =  \n\n=x\n')).toEqual([{ value: 'CH', label: 'CH' }]);
});
