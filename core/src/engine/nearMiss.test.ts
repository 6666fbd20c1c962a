import fc from 'fast-check';
import { distance } from 'fastest-levenshtein';
import { differenceOf, lettersApart } from './nearMiss';

/** Worked values of the restricted edit distance; the first two stand in many textbooks, written down from memory. */
test.each([
  ['kitten', 'sitting', 3],
  ['CA', 'ABC', 3],
  ['ferry', 'frery', 1],
  ['', 'abc', 3],
  ['🚢a', 'a🚢', 1],
])('%s and %s are %d characters apart', (a, b, apart) => {
  expect(lettersApart(a, b, 9)).toBe(apart);
  expect(lettersApart(a, b, apart - 1)).toBeUndefined();
});

const word = fc.string({ unit: fc.constantFrom('a', 'b', 'c'), maxLength: 7 });

test('apart from neighbours that changed places, it is the distance that a reference library gives', () => {
  fc.assert(
    fc.property(word, word, (a, b) => {
      const apart = lettersApart(a, b, 20) ?? NaN;
      expect(apart).toBeLessThanOrEqual(distance(a, b));
      expect(apart * 2).toBeGreaterThanOrEqual(distance(a, b));
      const swapped = [...a].slice(1).map((_letter, at) => {
        const letters = [...a];
        [letters[at], letters[at + 1]] = [letters[at + 1] ?? '', letters[at] ?? ''];
        return letters.join('');
      });
      expect(apart <= 1).toBe(distance(a, b) <= 1 || swapped.includes(b));
    }),
  );
});

test('it is the same both ways', () => {
  fc.assert(fc.property(word, word, (a, b) => expect(lettersApart(a, b, 20)).toBe(lettersApart(b, a, 20))));
});

test.each([
  ['@fair-isle.example', 'fair-isle.example', 'by a leading @'],
  ['fair-isle.example', 'www.fair-isle.example', 'by a leading www.'],
  ['SK-104/A', 'SK-104', 'by a trailing /A'],
  ['Ness ', 'Ness', 'by spaces at the ends'],
  ['NESS', 'Ness', 'in capital and small letters'],
  ['Höfn', 'Hofn', 'in accents or spaces'],
  ['SK 104', 'SK-104', 'in spaces or signs'],
  ['Stromness', 'Stromnes', 'by a trailing s'],
  ['Strunmess', 'Stromness', 'in 2 characters'],
])('“%s” and “%s”: %s', (held, wanted, because) => {
  expect(differenceOf(held, wanted)?.because).toBe(`“${held}” differs from “${wanted}” ${because}`);
});

test.each([
  ['Ness', 'Ness'],
  ['', 'Ness'],
  ['Ness', 'Holm'],
  ['a', 'b'],
])('“%s” and “%s” are the same, or nothing like each other', (a, b) => {
  expect(differenceOf(a, b)).toBeUndefined();
});
