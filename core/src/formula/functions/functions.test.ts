/** What the functions say beyond their two examples: published worked examples, limits, and hostile input. */
import fc from 'fast-check';
import { compile } from '../compile';
import { limits } from '../limits';
import { exampleScope } from '../testScope';
import { formulaFunctions } from './index';
import { give, shown } from './testGive';

const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;

test('there are about ninety functions, each with a sentence, two examples and a source', () => {
  expect(formulaFunctions.length).toBeGreaterThanOrEqual(90);
  for (const { meaning, examples, source } of formulaFunctions) {
    expect(meaning).toMatch(/^[A-Z0-9].*\.$/);
    expect(examples.length).toBeGreaterThanOrEqual(2);
    expect(source).not.toBe('');
  }
});

describe('OpenFormula', () => {
  // Worked examples of ODF 1.3 part 4, from memory: the standard's test cases for these functions.
  test.each([
    ['REPLACE("123456789", 5, 3, "Q")', '1234Q89'],
    ['SUBSTITUTE("121212", "2", "ab")', '1ab1ab1ab'],
    ['SUBSTITUTE("121212", "2", "ab", 2)', '121ab12'],
    ['MID("123456789", 5, 3)', '567'],
    ['MID("123456789", 20, 3)', ''],
    ['LEFT("Hello", 2)', 'He'],
    ['RIGHT("Hello", 2)', 'lo'],
    ['PROPER("hello there")', 'Hello There'],
    ['TRIM(" HI ")', 'HI'],
    ['REPT("XY", 3)', 'XYXYXY'],
    ['FIND("b", "abcabc")', '2'],
    ['FIND("b", "abcabcabc", 3)', '5'],
    ['EXACT("A", "A")', 'TRUE'],
    ['CEILING(2, 4)', '4'],
    ['FLOOR(4, 1)', '4'],
    ['INT(-1.2)', '-2'],
    ['TRUNC(10.1)', '10'],
    ['TRUNC(-0.5)', '0'],
    ['MOD(10, 3)', '1'],
    ['MOD(2, 8)', '2'],
    ['MOD(-1, 2)', '1'],
    ['QUOTIENT(10, 3)', '3'],
    ['SUM(1, 2, 3)', '6'],
    ['AVERAGE(2, 4)', '3'],
    ['WEEKDAY(DATE(2006, 5, 21))', '1'],
    ['WEEKDAY(DATE(2005, 1, 1))', '7'],
    ['WEEKDAY(DATE(2005, 1, 1), 2)', '6'],
    ['WEEKDAY(DATE(2005, 1, 1), 3)', '5'],
    ['EOMONTH(DATE(2006, 1, 1), 0)', '2006-01-31'],
    ['EOMONTH(DATE(2006, 1, 1), 1)', '2006-02-28'],
    ['EDATE(DATE(2006, 1, 1), -2)', '2005-11-01'],
    ['EDATE(DATE(2000, 4, 30), -2)', '2000-02-29'],
    ['DATEDIF(DATE(1990, 2, 15), DATE(1993, 9, 15), "y")', '3'],
    ['DATEDIF(DATE(1990, 2, 15), DATE(1993, 9, 15), "m")', '43'],
    ['DATEDIF(DATE(1990, 2, 15), DATE(1993, 9, 15), "d")', '1308'],
    ['ISOWEEKNUM(DATE(1995, 1, 1))', '52'],
    ['ISOWEEKNUM(DATE(1996, 1, 1))', '1'],
    ['CHOOSE(3, "Apple", "Orange", "Grape", "Perry")', 'Grape'],
    ['XOR(TRUE, TRUE, TRUE)', 'TRUE'],
    ['NUMBERVALUE("4,567.32", ".", ",")', '4567.32'],
    ['UNICODE("€")', '8364'],
    ['UNICHAR(8364)', '€'],
  ])('%s gives %s', (source, result) => expect(shown(source)).toBe(result));
});

describe('ISO 8601 weeks', () => {
  // ISO 8601, week dates: years that begin or end in a week of their neighbour; known from calendars, from memory.
  test.each([
    ['2005, 1, 1', 53],
    ['2005, 1, 2', 53],
    ['2005, 12, 31', 52],
    ['2007, 1, 1', 1],
    ['2008, 12, 29', 1],
    ['2010, 1, 3', 53],
  ])('%s lies in week %d', (date, week) => expect(give(`ISOWEEKNUM(DATE(${date}))`)).toBe(week));
});

describe('zones and clocks', () => {
  test('a time that clocks skip in spring and one that they show twice are taken as RFC 5545 does', () => {
    expect(shown('DATETIME(DATE(2026, 3, 29), "01:30", "Europe/London")')).toBe('2026-03-29T01:30:00Z');
    expect(shown('DATETIME(DATE(2026, 10, 25), "01:30", "Europe/London")')).toBe('2026-10-25T00:30:00Z');
  });

  test('an unknown zone is said', () => {
    expect(give('LOCALDATE(NOW(), "Skerry/North")')).toMatchObject({
      message: '“Skerry/North” is not a time zone.',
    });
  });

  test('minutes and months are told apart by their neighbours', () => {
    expect(shown('PARSEDATETIME("07:05 09/03/2026", "hh:mm dd/mm/yyyy")')).toBe('2026-03-09T07:05:00Z');
    expect(shown('PARSEDATE("090326", "ddmmyy")')).toBe('2026-03-09');
    expect(shown('PARSEDATE("9 March 2026", "d mmmm yyyy")')).toBe('2026-03-09');
    expect(shown('PARSEDATE("9 Sept 2026", "d mmm yyyy")')).toBe('error: value');
    expect(shown('PARSEDATE("09/03/2026 late", "dd/mm/yyyy")')).toBe('error: value');
  });

  test('what TEXT writes, PARSEDATE reads back', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 40_000 }),
        fc.constantFrom('dd/mm/yyyy', 'd mmm yyyy', 'yyyymmdd', 'mmmm d, yyyy'),
        (days, pattern) => {
          const date = `DATE(1970, 1, 1) + ${days}`;
          expect(give(`PARSEDATE(TEXT(${date}, "${pattern}"), "${pattern}") = ${date}`)).toBe(true);
        },
      ),
    );
  });

  test('working days skip week-ends and holidays, forwards and backwards', () => {
    expect(shown('WORKDAY(DATE(2026, 12, 24), 1, {DATE(2026, 12, 25)})')).toBe('2026-12-28');
    expect(shown('WORKDAY(DATE(2026, 3, 9), -1)')).toBe('2026-03-06');
    expect(shown('WORKDAY(DATE(2026, 3, 9), 1000000)')).toBe('error: limit');
  });
});

describe('codes', () => {
  // ISO 6346, annex A: CSQU3054383 is the worked example; TOLU4734787 is another, from memory.
  test.each([
    ['CSQU305438', 3],
    ['csqu 305438-3', 3],
    ['TOLU473478', 7],
  ])('the check digit of %s is %d', (code, digit) => expect(give(`CONTAINERDIGIT("${code}")`)).toBe(digit));

  test('a container number is right with its own digit and with no other', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 999_999 }), fc.integer({ min: 0, max: 9 }), (serial, digit) => {
        const code = `SKLU${String(serial).padStart(6, '0')}`;
        expect(give(`ISCONTAINER("${code}${digit}")`)).toBe(give(`CONTAINERDIGIT("${code}")`) === digit);
      }),
    );
  });

  // RFC 9562, appendix A.4: the example of version 5.
  test('a name in a namespace has the UUID that the standard gives', () => {
    expect(shown('UUID5("www.example.com", "dns")')).toBe('2ed6657d-e927-568b-95e1-2665a8aea6a2');
    expect(give('LEN(UUID5("x", "url"))')).toBe(36);
  });

  test('units that do not measure the same, and unknown ones, are said', () => {
    expect(give('CONVERT(1, "kg", "m")')).toMatchObject({ message: '“kg” and “m” do not measure the same.' });
    expect(give('CONVERT(1, "stone of Skerry", "m")')).toMatchObject({
      message: '“stone of Skerry” is not a unit.',
    });
    expect(shown('CONVERT(212, "fahrenheit", "celsius")')).toBe('100');
    expect(shown('CONVERT(0.3048, "m", "ft")')).toBe('1');
  });
});

describe('Unicode', () => {
  // Unicode Character Database, SpecialCasing.txt and NormalizationTest.txt, from memory.
  test.each([
    ['UPPER("ﬁsh")', 'FISH'],
    ['UPPER("straße")', 'STRASSE'],
    ['LOWER("ΑΣ")', 'ας'],
    ['LEN("e" & UNICHAR(769))', '1'],
    ['FOLD("Å") = FOLD("A" & UNICHAR(778))', 'TRUE'],
    ['FOLD("ﬁsh")', 'fish'],
    ['LEFT("🚢🚢", 1) = "🚢"', 'TRUE'],
    ['LEN("🚢")', '1'],
    ['PADLEFT("🚢", 3, "·")', '··🚢'],
  ])('%s gives %s', (source, result) => expect(shown(source)).toBe(result));
});

describe('lists', () => {
  test('each option of a multi-choice is looked up, and those without a row are left out', () => {
    expect(shown('EACH({"NOR", "nowhere", "nor"}, TABLE("Ports to tariff zones", item, "zone"))')).toBe(
      'N2, N2',
    );
  });

  test('an error in one element is the error of the whole', () => {
    expect(give('EACH({1, 0}, 10 / item)')).toMatchObject({ code: 'divide' });
  });

  test('loops inside loops have their own item', () => {
    expect(shown('EACH({"a", "b"}, item & TEXTJOIN("", TRUE, EACH({1, 2}, item * 10)))')).toBe(
      'a1020, b1020',
    );
  });

  test('item means nothing outside', () => {
    expect(compile('item', exampleScope).ok).toBe(false);
    expect(compile('EACH({1}, item.town)', exampleScope).ok).toBe(false);
  });

  test('sums and extremes over lists skip blanks and refuse text', () => {
    expect(shown('SUM({1, 2}, 0.5)')).toBe('3.5');
    expect(shown('MAX({3, 12, 7})')).toBe('12');
    expect(shown('SUM({"a"})')).toBe('error: type');
    expect(shown('AVERAGE({})')).toBe('blank');
  });
});

describe('hostile input', () => {
  test('a pattern that makes other engines run for ages is done at once', () => {
    const text = 'a'.repeat(5000);
    expect(give(`REGEXTEST(${quoted(`${text}!`)}, "^(a+)+$")`)).toBe(false);
  });

  test('back references, which cannot be matched in linear time, are refused', () => {
    expect(shown('REGEXTEST("aa", "(a)\\1")')).toBe('error: value');
  });

  test('text cannot be made to grow without bound', () => {
    expect(shown(`REPT("x", ${limits.text + 1})`)).toBe('error: limit');
    const grown = 'SUBSTITUTE('.repeat(6) + `REPT("x", 1000)` + ', "x", REPT("x", 100))'.repeat(6);
    expect(shown(grown)).toBe('error: limit');
    expect(shown(`PADLEFT("x", 100000000)`)).toBe('error: limit');
    const doubled = `REPT("x", 900000)`;
    expect(shown(`${doubled} & ${doubled}`)).toBe('error: limit');
  });

  test('loops inside loops are stopped by the steps they take together', () => {
    const list = 'SPLIT(REPT("x,", 999) & "x", ",")';
    expect(shown(`EACH(${list}, COUNTA(EACH(${list}, item)))`)).toBe('error: limit');
    expect(shown(`COUNTA(EACH(${list}, item))`)).toBe('1000');
  });

  test.each([
    'AT(address, "/__proto__")',
    'AT(address, "/constructor/name")',
    'AT(PARSEJSON("{}"), "/toString")',
  ])('%s reaches nothing', (source) => expect(shown(source)).toBe('blank'));

  test('names reach no prototype either', () => {
    for (const name of ['__proto__', 'constructor', 'address.__proto__', 'record.toString']) {
      expect(compile(name, exampleScope).ok).toBe(false);
    }
  });
});
