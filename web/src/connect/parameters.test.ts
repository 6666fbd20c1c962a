import { parametersText, readParameters } from './parameters';

test('parameters are typed as in an address, and read back', () => {
  const parameters = readParameters('include=all & filter[at]=ge:{since}&flag&x=a=b');
  expect(parameters).toEqual({ include: 'all', 'filter[at]': 'ge:{since}', flag: '', x: 'a=b' });
  expect(readParameters(parametersText(parameters))).toEqual(parameters);
  expect([readParameters(''), parametersText()]).toEqual([{}, '']);
});
