/** Currencies as ISO 4217 stands at the beginning of 2026. */
import currencies from 'currency-codes';
import * as money from 'dinero.js';
import { give, shown } from './testGive';

interface SecondOpinion {
  readonly code: string;
  readonly base: number | readonly number[];
  readonly exponent: number;
}

/** The currencies of the package dinero.js 2.0.2, which leaves out those without a minor unit. */
const published = Object.values(money).filter(
  (entry): entry is typeof entry & SecondOpinion => typeof entry === 'object' && 'exponent' in entry,
);

/** It counts five khoums to the ouguiya and five iraimbilanja to the ariary; ISO 4217 gives two decimals for both. */
const fifths = new Set(['MRU', 'MGA']);

/** It still has the lev, for which the euro came on the first of January 2026 (from memory). */
const goneSince = new Set(['BGN']);

test('every currency of a second list has its decimals', () => {
  expect(published.length).toBeGreaterThan(160);
  for (const { code, exponent } of published) {
    if (goneSince.has(code)) continue;
    expect(`${code} ${shown(`CURRENCYDIGITS("${code}")`)}`).toBe(
      `${code} ${fifths.has(code) ? 2 : exponent}`,
    );
    expect(give(`FROMMINOR(TOMINOR(12, "${code.toLowerCase()}"), "${code}")`)).toBe(12);
  }
});

test('what is known beside that list has no minor unit or was withdrawn, and says so', () => {
  const listed = new Set(published.map(({ code }) => code));
  const others = currencies.codes().filter((code) => !listed.has(code));
  expect(others.length).toBeGreaterThan(10);
  for (const code of [...others, ...goneSince])
    expect(give(`CURRENCYDIGITS("${code}")`)).toMatchObject({
      message: expect.stringMatching(/has no minor unit in ISO 4217|was withdrawn from ISO 4217/) as string,
    });
});

test('gold has no decimals to count, which is not the same as none', () => {
  expect(give('TOMINOR(1, "xau")')).toMatchObject({
    message: '“XAU” has no minor unit in ISO 4217 (“N.A.”).',
  });
  expect(give('FROMMINOR(1, "ANG")')).toMatchObject({
    message: '“ANG” was withdrawn from ISO 4217; XCG came in its place.',
  });
  expect(shown('CURRENCYDIGITS("constructor")')).toBe('error: value');
});
