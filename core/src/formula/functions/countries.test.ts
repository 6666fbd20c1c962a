/** Countries by every code and name that ISO 3166-1 gives them. */
import countries from 'i18n-iso-countries';
import { iso31661 } from 'iso-3166';
import fullNames from './countryFullNames.json';
import { give, shown } from './testGive';

test('every country of ISO 3166-1 turns into each of its codes and back, in large letters and in small', () => {
  // A second list of the standard: package iso-3166, made from ISO's Online Browsing Platform.
  expect(iso31661).toHaveLength(249);
  for (const { alpha2, alpha3, numeric } of iso31661) {
    expect(shown(`COUNTRY("${alpha2.toLowerCase()}", "alpha-3")`)).toBe(alpha3);
    expect(shown(`COUNTRY("${alpha3.toLowerCase()}", "numeric")`)).toBe(numeric);
    expect(shown(`COUNTRY("${Number(numeric)}", "alpha-2")`)).toBe(alpha2);
  }
});

test('every country is known by its short and its full name, with and without its article', () => {
  const names = [
    ...iso31661.map(({ name, alpha2 }) => [name, alpha2] as const),
    ...Object.entries(fullNames).map(([alpha2, name]) => [name, alpha2] as const),
  ];
  for (const [name, alpha2] of names) {
    expect(`${name}: ${shown(`COUNTRY("${name}", "alpha-2")`)}`).toBe(`${name}: ${alpha2}`);
    expect(shown(`COUNTRY("the ${name.toUpperCase()}", "alpha-2")`)).toBe(alpha2);
  }
});

test('the names that COUNTRY gives are read back', () => {
  for (const alpha2 of Object.keys(countries.getAlpha2Codes()))
    expect(shown(`COUNTRY(COUNTRY("${alpha2}", "name"), "alpha-2")`)).toBe(alpha2);
});

// Short names as ISO 3166-1 prints them, from memory.
test.each([
  ['Korea (the Republic of)', 'KR'],
  ['Korea (the Democratic People’s Republic of)', 'KP'],
  ['Bolivia (Plurinational State of)', 'BO'],
  ['Moldova (the Republic of)', 'MD'],
  ['Congo (the)', 'CG'],
  ['Congo (the Democratic Republic of the)', 'CD'],
  ['Virgin Islands (U.S.)', 'VI'],
  ['Virgin Islands (British)', 'VG'],
  ['Viet Nam', 'VN'],
  ["Cote d'Ivoire", 'CI'],
  ['Côte d’Ivoire', 'CI'],
  ['Turkiye', 'TR'],
  ['Norvège', 'NO'],
  ['Pays-Bas', 'NL'],
  ['Micronesia (Federated States of)', 'FM'],
  ['Saint Helena, Ascension and Tristan da Cunha', 'SH'],
  ['St Lucia', 'LC'],
])('%s is %s', (name, alpha2) => expect(shown(`COUNTRY("${name}", "alpha-2")`)).toBe(alpha2));

test.each(['Atlantis', 'Korea', 'XX', 'Republic', 'the', '', '1000'])('“%s” is no country', (name) =>
  expect(['error: value', 'blank']).toContain(shown(`COUNTRY("${name}", "alpha-2")`)),
);

test('a telephone number takes its country in any form, and says which one it does not know', () => {
  for (const country of ['GB', 'gb', 'GBR', '826', 'United Kingdom'])
    expect(shown(`PHONE("01632 960 120", "${country}")`)).toBe('+441632960120');
  expect(give('PHONE("01632 960 120", "Skerry")')).toMatchObject({
    message: '“Skerry” is not a country of ISO 3166-1.',
  });
  expect(give('PHONE("12345", "Antarctica")')).toMatchObject({
    message: 'No telephone numbers are known of “Antarctica”.',
  });
});
