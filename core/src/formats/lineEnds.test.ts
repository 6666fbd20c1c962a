import fc from 'fast-check';
import { readCsv, writeCsv } from './csv';
import { LineEnds } from './lineEnds';

const evened = (parts: readonly string[]) => {
  const ends = new LineEnds();
  return parts.map((part) => ends.take(part)).join('') + ends.end();
};

test('lines of one file that end differently are all lines, and what stands in quotes stays', async () => {
  const text = 'town,note\r\nMurrow,"a\r\nb"\nSkerry,c\rNorthport,"say ""\r"""\r\n';
  expect(readCsv(text)).toEqual({
    lines: [
      ['town', 'note'],
      ['Murrow', 'a\r\nb'],
      ['Skerry', 'c'],
      ['Northport', 'say "\r"'],
    ],
  });
});

// RFC 4180, section 2: lines end with CRLF, and quoted fields may hold line breaks and doubled quotes.
test('law: what was written is read again whatever its lines end with, and however it is cut into parts', () => {
  const cell = fc.stringMatching(/^[a-z"\r\n, ]{0,6}$/);
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.constant('k'), cell), { minLength: 1, maxLength: 5 }),
      fc.array(fc.constantFrom('\r\n', '\n', '\r'), { minLength: 5, maxLength: 5 }),
      fc.nat(30),
      (rows, ends, cut) => {
        const lines = rows.map((row) => writeCsv([row]));
        const text = lines.map((line, at) => line + (ends[at] ?? '\n')).join('');
        const [one, other] = [text.slice(0, cut), text.slice(cut)];
        expect(evened([one, other])).toBe(evened([text]));
        expect(readCsv(text)).toEqual({ lines: rows });
      },
    ),
    { numRuns: 400 },
  );
});
