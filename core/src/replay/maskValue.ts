import type { Json } from '../model/json';
import type { Field } from '../model/system';

/**
 * Returns a number from 0 to 2³²-1 for a text. It is keyed: nobody without the key computes it, and the key is neither here nor in what is
 * masked.
 */
export type Keyed = (text: string) => number;

/** Digits at the end of a number by which two ways of writing it are the same, and how many of them are put out of sight. */
const tellingDigits = 9;
const maskedDigits = 3;
const digits = '0123456789';
const leading = '123456789';
/** In words up to this length two of one sample could come to the same by chance. */
const shortWord = 3;
const letters = 'abcdefghijklmnopqrstuvwxyz';
const dayMs = 86_400_000;
/** A date is put elsewhere among so many days, which are about eleven years: two to the power of twice `halfBits`. */
const halfBits = 6;
const blockDays = 1 << (2 * halfBits);

/** Returns what two ways of writing the same value have in common: the last digits of a number, the day of a date, otherwise the text. */
export function identityOf(text: string): string {
  return tellingOf(text) ?? dayOf(text)?.key ?? text.normalize('NFC');
}

/** Returns the digits by which a number is known; undefined for what is no number. */
function tellingOf(text: string): string | undefined {
  const all = text.replace(/\D/g, '');
  const isNumber = all.length >= tellingDigits && /^[+\d\s().\-/]+$/.test(text);
  return isNumber ? all.slice(-tellingDigits) : undefined;
}

interface Day {
  /** Days since 1970-01-01. */
  readonly day: number;
  readonly key: string;
  /** Writes another day as this one was written. */
  readonly written: (year: string, month: string, date: string) => string;
}

/** Returns the day that a text begins with, or is: as ISO 8601 has it, or with the day first. Undefined for what is none. */
function dayOf(text: string): Day | undefined {
  const iso = /^(\d{4})-(\d{2})-(\d{2})(?=T|$)/.exec(text);
  const dayFirst = /^(\d{2})([./])(\d{2})\2(\d{4})$/.exec(text);
  if (!iso && !dayFirst) return undefined;
  const [year = '', month = '', date = ''] = iso
    ? iso.slice(1)
    : [dayFirst?.[4], dayFirst?.[3], dayFirst?.[1]].map((part) => part ?? '');
  const at = Date.parse(`${year}-${month}-${date}T00:00:00Z`);
  if (Number.isNaN(at)) return undefined;
  const between = dayFirst?.[2] ?? '';
  return {
    day: at / dayMs,
    key: `${year}-${month}-${date}`,
    written: iso
      ? (...parts) => parts.join('-') + text.slice(10)
      : (...parts) => [...parts].reverse().join(between),
  };
}

/** Returns a text that cannot be read any more: letters become other letters, the last digits of a number others, a day another one. */
export function maskedText(text: string, keyed: Keyed): string {
  return (
    maskedWhole(text, keyed) ??
    text
      .replace(
        numberLike,
        (part) =>
          maskedWhole(part, keyed) ?? part.replace(/\d+/g, (run) => movedOn(run, digits, 'run', keyed)),
      )
      .replace(/\p{L}+/gu, (word) => maskedWord(word, keyed))
  );
}

/** Parts of a text that may be a number or a day: signs between digits belong to it. */
export const numberLike = /[+\d(][\d ().\-/]{6,}\d|\d+/g;

/** Returns a number or a day as it is masked; undefined for what is neither. */
function maskedWhole(text: string, keyed: Keyed): string | undefined {
  const telling = tellingOf(text);
  if (telling !== undefined) {
    const shown = telling.slice(0, -maskedDigits);
    return withLastDigits(text, movedOn(telling.slice(-maskedDigits), digits, shown, keyed));
  }
  const day = dayOf(text);
  return day?.written(...partsOf(otherDay(day.day, keyed)));
}

function partsOf(day: number): [year: string, month: string, date: string] {
  const [year = '', month = '', date = ''] = new Date(day * dayMs).toISOString().slice(0, 10).split('-');
  return [year, month, date];
}

/**
 * Returns another day of the same eleven years or so. Two days never become the same: a Feistel network is a permutation, whatever the
 * function in its rounds (Luby and Rackoff, 1988).
 */
function otherDay(day: number, keyed: Keyed): number {
  const block = Math.floor(day / blockDays);
  const half = (1 << halfBits) - 1;
  const at = day - block * blockDays;
  let [left, right] = [at >> halfBits, at & half];
  for (let round = 0; round < 4; round++)
    [left, right] = [right, left ^ (keyed(`day ${block} ${round} ${right}`) & half)];
  return block * blockDays + ((left << halfBits) | right);
}

/**
 * Returns the value of a personal field that is no text: a number with as many digits, one of the options, or yes or no, each by the key. Two
 * values of a field stay two. What it has no way for stays; texts and days are masked wherever they stand, and not here.
 */
export function maskedOf(json: Json, field: Field, keyed: Keyed): Json {
  if (typeof json === 'boolean') return keyed(`truth ${field.name}`) % 2 === 0 ? json : !json;
  if (typeof json === 'number') return otherNumber(json, keyed);
  if (typeof json === 'object' && json !== null && '$number' in json && typeof json['$number'] === 'string')
    return { $number: otherDigits(json['$number'], keyed) };
  const { options = [] } = field;
  if (typeof json === 'string' && options.length > 1) {
    const at = options.findIndex(({ value }) => value === json);
    const by = 1 + (keyed(`option ${field.name}`) % (options.length - 1));
    return at < 0 ? json : (options[(at + by) % options.length]?.value ?? json);
  }
  return json;
}

function otherNumber(number: number, keyed: Keyed): number {
  const text = String(number);
  const other = Number(otherDigits(text, keyed));
  // What a float does not hold exactly would come to something else.
  return /^-?\d+(\.\d+)?$/.test(text) && String(other).length === text.length ? other : number;
}

/** Returns a number with other digits: as many before and behind the point, and none that is led by a zero or ends with one. */
function otherDigits(text: string, keyed: Keyed): string {
  const parts = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text);
  if (!parts) return text;
  const [, sign = '', whole = '', fraction] = parts;
  const other = (digits_: string, salt: string) =>
    [...digits_]
      .map((sign_, at) => {
        const isEnd = salt === 'whole' ? at === 0 && digits_.length > 1 : at === digits_.length - 1;
        const alphabet = isEnd && sign_ !== '0' ? leading : digits;
        return movedOn(
          sign_,
          alphabet,
          `${salt} ${digits_.length} ${salt === 'whole' ? digits_.slice(0, at) : `${whole}.${digits_.slice(0, at)}`}`,
          keyed,
        );
      })
      .join('');
  return `${sign}${other(whole, 'whole')}${fraction === undefined ? '' : `.${other(fraction, 'fraction')}`}`;
}

/**
 * Returns a text of the same length, each of whose signs was moved on in their alphabet by as much as what stands before it says. No sign
 * stays, and two texts never become the same: the first sign in which they differ is moved on by as much in both.
 */
function movedOn(text: string, alphabet: string, salt: string, keyed: Keyed): string {
  return [...text]
    .map((sign, at) => {
      const by = 1 + (keyed(`${text.slice(0, at)} ${salt}`) % (alphabet.length - 1));
      return alphabet.charAt((alphabet.indexOf(sign) + by) % alphabet.length);
    })
    .join('');
}

/** Returns the same text with other digits at its end, whatever stands between them. */
function withLastDigits(text: string, ending: string): string {
  const left = [...ending];
  return [...text]
    .reverse()
    .map((character) => (/\d/.test(character) && left.length > 0 ? (left.pop() ?? character) : character))
    .reverse()
    .join('');
}

/** Returns a word of other letters, of the same length and in the same case; the same word is always the same one. */
export function maskedWord(word: string, keyed: Keyed): string {
  const small = word.toLowerCase();
  const others =
    word.length <= shortWord && /^[a-z]+$/.test(small)
      ? [...movedOn(small, letters, '', keyed)]
      : [...word].map((_letter, at) => letters.charAt(keyed(`${small} ${at}`) % letters.length));
  return [...word]
    .map((letter, at) => {
      const other = others[at] ?? '';
      return letter === letter.toLowerCase() ? other : other.toUpperCase();
    })
    .join('');
}
