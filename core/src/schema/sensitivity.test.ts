import type { Field } from '../model/system';
import { suggestSensitivity } from './sensitivity';

const field = (name: string, more: Partial<Field> = {}): Field => ({
  name,
  label: name,
  type: 'text',
  ...more,
});
const named = (name: string, label = name) =>
  suggestSensitivity({ fields: [field(name, { label })] })[0]?.sensitivity;
const holding = (values: readonly string[]) =>
  suggestSensitivity(
    { fields: [field('value')] },
    values.map((value) => ({ value })),
  )[0]?.because;

test.each([
  ['email', 'personal'],
  ['contactEmail', 'personal'],
  ['Phone No', 'personal'],
  ['mobile_phone', 'personal'],
  ['firstName', 'personal'],
  ['dateOfBirth', 'personal'],
  ['iban', 'personal'],
  ['api_key', 'secret'],
  ['Password', 'secret'],
  ['email_domain', undefined],
  ['emailVerified', undefined],
  ['name', undefined],
  ['vesselName', undefined],
  ['telephonist', undefined],
  ['pinboard', undefined],
  ['portOfCall', undefined],
])('%s is called as something %p', (name, sensitivity) => {
  expect(named(name)).toBe(sensitivity);
});

test('the label tells where the API name does not', () => {
  expect(named('c17', 'Birth date')).toBe('personal');
});

test('a field inside an object is found, and one that is marked is not named again', () => {
  const fields = [
    field('contact', {
      type: 'object',
      fields: [field('email'), field('phone', { sensitivity: 'personal' })],
    }),
    field('isEmail', { type: 'boolean' }),
  ];
  expect(suggestSensitivity({ fields })).toEqual([
    {
      path: 'contact.email',
      sensitivity: 'personal',
      because: '“contact › email” is called as a mail address.',
    },
  ]);
});

// The examples of the IBAN registry (SWIFT, ISO 13616) for Norway, the United Kingdom, Germany, Malta and the Faroe Islands, from memory.
const ibans = [
  'NO93 8601 1117 947',
  'GB29 NWBK 6016 1331 9268 19',
  'DE89370400440532013000',
  'MT84MALT011000012345MTLCAST001S',
  'FO62 6460 0001 6316 34',
];
// Numbers that issuers publish for tests, from memory; each ends with its check digit of ISO/IEC 7812-1.
const cards = [
  '4111 1111 1111 1111',
  '5555555555554444',
  '378282246310005',
  '6011111111111117',
  '3530111333300000',
];

test('what a field holds tells as well: accounts and cards by their check digits, mail addresses, phone numbers', () => {
  expect(holding(ibans)).toContain('ISO 13616');
  expect(
    holding(ibans.map((iban) => iban.replace(/\d$/, (digit) => String((Number(digit) + 1) % 10)))),
  ).toBeUndefined();
  expect(holding(cards)).toContain('ISO/IEC 7812');
  expect(
    holding(cards.map((card) => card.replace(/\d$/, (digit) => String((Number(digit) + 1) % 10)))),
  ).toBeUndefined();
  expect(holding(['a@b.example', 'c@d.example', 'e@f.example', 'g@h.example', 'i@j.example'])).toContain(
    'mail',
  );
  expect(holding(Array.from({ length: 5 }, (_, at) => `+44163296012${at}`))).toContain('E.164');
});

test('a few values, or some among others, say nothing', () => {
  expect(holding(['a@b.example', 'c@d.example'])).toBeUndefined();
  expect(holding(['a@b.example', 'none', 'none', 'none', 'by phone', 'x'])).toBeUndefined();
  // Ports, codes and days are none of it.
  expect(holding(['Skarvøy', 'Holmen', 'Aldra', 'Murrow', 'Eider Bay'])).toBeUndefined();
  expect(holding(['2026-03-09', '2026-03-10', '2026-03-11', '2026-03-12', '2026-03-13'])).toBeUndefined();
});
