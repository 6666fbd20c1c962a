import { parsePhoneNumberFromString } from 'libphonenumber-js/max';
import type { Json, JsonObject } from '../model/json';
import { readPath } from '../model/json';
import { watchableFields, type Field, type RecordType } from '../model/system';
import { wordsOf } from './words';

/** That a field looks personal or secret, and why, for a person to confirm. */
export interface SensitivitySuggested {
  readonly path: string;
  readonly sensitivity: 'personal' | 'secret';
  readonly because: string;
}

/**
 * Returns which fields of a record type look personal or secret, by what they are called and by what records hold in them. What is marked
 * already, or is of a type that holds nothing of the kind, is not named.
 */
export function suggestSensitivity(
  type: Pick<RecordType, 'fields'>,
  records: readonly JsonObject[] = [],
): readonly SensitivitySuggested[] {
  return watchableFields(type.fields).flatMap(({ path, field, label }) => {
    if (field.sensitivity !== undefined || !mayHold.has(field.type)) return [];
    const called = byName(field, label);
    if (called) return [{ path, ...called }];
    const values = records.map((record) => readPath(record, path)).filter(isThere);
    const held = byValues(field, values);
    return held ? [{ path, ...held }] : [];
  });
}

type Suggested = Omit<SensitivitySuggested, 'path'>;

const mayHold: ReadonlySet<Field['type']> = new Set(['text', 'integer', 'date', 'datetime']);

/** Words of a name that tell what a field holds; common practice, no source. All words of one of the lists of an entry must be there. */
const secretWords = [
  'password',
  'passphrase',
  'secret',
  'api key',
  'private key',
  'access token',
  'pin code',
  'credential',
];
const personalWords: readonly (readonly [what: string, ...words: string[]])[] = [
  ['a mail address', 'email', 'e mail', 'mail address'],
  ['a phone number', 'phone', 'telephone', 'mobile', 'cell phone', 'fax'],
  [
    'a name of somebody',
    'first name',
    'last name',
    'full name',
    'given name',
    'family name',
    'surname',
    'forename',
    'middle name',
    'maiden name',
    'contact name',
    'officer name',
    'master name',
    'employee name',
    'person name',
    'main contact',
  ],
  ['a day of birth', 'birth date', 'birth day', 'birthday', 'date of birth', 'dob', 'born'],
  ['an account', 'iban', 'bank account', 'card number', 'credit card'],
  [
    'a number of a person',
    'passport',
    'ssn',
    'social security',
    'national id',
    'tax id',
    'driving licence',
    'driver license',
  ],
  ['something about a person', 'gender', 'nationality', 'marital status', 'religion', 'salary'],
];
/** Words with which a name that would fit is about something else: the domain of a mail address is an organisation's. */
const otherwise = ['domain', 'template', 'count', 'type', 'format', 'verified', 'enabled'];

function byName(field: Field, label: string): Suggested | undefined {
  const names = [field.name, label].map((name) => ` ${wordsOf(name).join(' ').toLowerCase()} `);
  const has = (words: string) => names.some((name) => name.includes(` ${words} `));
  if (otherwise.some(has)) return undefined;
  if (secretWords.some(has))
    return { sensitivity: 'secret', because: `“${label}” is called as what is kept secret.` };
  const found = personalWords.find(([, ...words]) => words.some(has));
  return found && { sensitivity: 'personal', because: `“${label}” is called as ${found[0]}.` };
}

/** So many values are wanted before they say something, and so many of them must look alike. */
const fewest = 5;
const share = 0.8;

/** What values look like, each with how it is known. */
const looks: readonly (readonly [what: string, looks: (text: string) => boolean])[] = [
  ['mail addresses', (text) => /^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(text)],
  ['accounts (IBAN, ISO 13616)', isIban],
  ['payment cards (ISO/IEC 7812)', isCard],
  [
    'phone numbers (E.164)',
    (text) => /^\+\d/.test(text) && parsePhoneNumberFromString(text)?.isPossible() === true,
  ],
];

function byValues({ type }: Field, values: readonly Json[]): Suggested | undefined {
  if (type !== 'text' || values.length < fewest) return undefined;
  const texts = values.filter((value): value is string => typeof value === 'string');
  const found = looks.find(([, like]) => texts.filter(like).length >= values.length * share);
  return found && { sensitivity: 'personal', because: `What it holds looks like ${found[0]}.` };
}

function isThere(value: Json | undefined): value is Json {
  return value !== undefined && value !== null && value !== '';
}

/** Whether a text is an account number of ISO 13616: its check digits are right (ISO/IEC 7064, MOD 97-10). */
function isIban(text: string): boolean {
  const plain = text.replace(/\s/g, '').toUpperCase();
  if (!/^[A-Z]{2}\d{2}[A-Z0-9]{11,30}$/.test(plain)) return false;
  let rest = 0;
  for (const letter of plain.slice(4) + plain.slice(0, 4))
    for (const digit of String(Number.parseInt(letter, 36))) rest = (rest * 10 + Number(digit)) % 97;
  return rest === 1;
}

/** Whether a text is the number of a payment card: 13 to 19 digits, the last of which checks the others (ISO/IEC 7812-1, annex B). */
function isCard(text: string): boolean {
  const digits = text.replace(/[ -]/g, '');
  if (!/^\d{13,19}$/.test(digits)) return false;
  const sum = [...digits].reverse().reduce((total, digit, at) => {
    const value = Number(digit) * (at % 2 === 1 ? 2 : 1);
    return total + (value > 9 ? value - 9 : value);
  }, 0);
  return sum % 10 === 0;
}
