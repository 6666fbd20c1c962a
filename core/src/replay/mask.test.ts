import { createHmac } from 'node:crypto';
import fc from 'fast-check';
import type { Field, System } from '../model/system';
import type { Sample } from '../model/sample';
import { maskExpected, maskRecords as maskRecordsBy, maskSample as maskSampleBy } from './mask';
import type { Keyed } from './maskValue';

/** HMAC with SHA-256 (RFC 2104), of which the first 32 bits are taken. */
const keyedBy =
  (key: string): Keyed =>
  (said) =>
    createHmac('sha256', key).update(said).digest().readUInt32BE(0);
const keyed = keyedBy('the key of the installation');
const maskSample = <S extends Omit<Sample, 'id'>>(given: S, systems: readonly System[]) =>
  maskSampleBy(given, systems, keyed);
const maskRecords = (
  ...[records, of, systems]: readonly [Sample['records'], Parameters<typeof maskRecordsBy>[1], System[]]
) => maskRecordsBy(records, of, systems, keyed);

const text = (name: string, more: Partial<Field> = {}): Field => ({
  name,
  label: name,
  type: 'text',
  ...more,
});
const system: System = {
  key: 'book',
  tag: 'BK',
  name: 'Book',
  hue: 1,
  recordTypes: [
    {
      name: 'person',
      label: 'Person',
      plural: 'People',
      idField: 'id',
      nameField: 'name',
      fields: [
        text('id'),
        text('name', { sensitivity: 'personal' }),
        text('phone', { sensitivity: 'personal' }),
        text('town'),
      ],
    },
    {
      name: 'call',
      label: 'Call',
      plural: 'Calls',
      idField: 'id',
      nameField: 'id',
      fields: [text('id'), text('to')],
    },
  ],
};
const ref = (recordType: string, id: string) => ({ system: 'book', recordType, id });
const person = { id: 'P1', name: 'Runa Tulloch', phone: '01632 960 120', town: 'Murrow' };
const sample: Omit<Sample, 'id'> = {
  name: 's',
  note: '',
  event: {
    id: 'e1',
    source: '/book',
    kind: 'updated',
    ref: ref('person', 'P1'),
    time: '2026-03-09T09:00:00Z',
    record: person,
    before: { ...person, phone: '01632 960 100' },
    changed: ['phone'],
  },
  records: [
    { ref: ref('person', 'P1'), record: person },
    { ref: ref('call', 'K1'), record: { id: 'K1', to: '+441632960120' } },
  ],
  expected: {
    records: [
      { key: 'book/call/K1', deed: 'write', fields: { to: { is: 'equal', value: '+441632960120' } } },
    ],
    messages: [],
    problems: [],
  },
};

test('personal values cannot be read any more, and keep their shape; others stay', () => {
  const { event } = maskSample(sample, [system]);
  const { name, phone, town, id } = event.record as Record<string, string>;
  expect(JSON.stringify(maskSample(sample, [system]))).not.toMatch(/Runa|Tulloch|960 ?120|960 ?100/);
  expect(name).toMatch(/^[A-Z][a-z]{3} [A-Z][a-z]{6}$/);
  expect(phone).toMatch(/^01632 960 \d{3}$/);
  expect([town, id]).toEqual(['Murrow', 'P1']);
});

test('the same value becomes the same everywhere, also where a number is written another way', () => {
  const { event, records, expected } = maskSample(sample, [system]);
  const national = String(event.record['phone']).replaceAll(' ', '');
  expect(records[1]?.record['to']).toBe(`+44${national.slice(1)}`);
  expect(expected?.records[0]?.fields['to']).toEqual({ is: 'equal', value: records[1]?.record['to'] });
  expect(records[0]?.record).toEqual(event.record);
});

test('another event masks the same value otherwise, so that samples cannot be linked', () => {
  const other = maskSample({ ...sample, event: { ...sample.event, id: 'e2' } }, [system]);
  expect(other.event.record['name']).not.toBe(maskSample(sample, [system]).event.record['name']);
});

test('a masked sample says so, and is not masked again', () => {
  const once = maskSample(sample, [system]);
  expect(once.masked).toEqual(['book/call/to', 'book/person/name', 'book/person/phone']);
  expect(maskSample(once, [system])).toBe(once);
});

test('records that are read later are masked as the same values are masked in the sample', () => {
  const once = maskSample(sample, [system]);
  const [first, second] = maskRecords(
    [
      { ref: ref('person', 'P1'), record: person },
      { ref: ref('person', 'P2'), record: { ...person, id: 'P2', name: 'Bram', town: 'Tarn Quay' } },
    ],
    once,
    [system],
  );
  expect(first).toEqual(once.records[0]);
  expect(second?.record).toMatchObject({ town: 'Tarn Quay', phone: once.event.record['phone'] });
  expect(second?.record['name']).not.toBe('Bram');
});

test('what is to be written to a personal field is masked where it comes from too', () => {
  const called: Omit<Sample, 'id'> = {
    ...sample,
    event: { ...sample.event, ref: ref('call', 'K1'), record: { id: 'K1', to: '01632 960 777' } },
    records: [{ ref: ref('person', 'P1'), record: person }],
    expected: {
      records: [
        { key: 'book/person/P1', deed: 'write', fields: { phone: { is: 'equal', value: '01632 960 777' } } },
      ],
      messages: [],
      problems: [],
    },
  };
  const { event, expected } = maskSample(called, [system]);
  expect(event.record['to']).not.toBe('01632 960 777');
  expect(expected?.records[0]?.fields['phone']).toEqual({ is: 'equal', value: event.record['to'] });
});

test('a field that is masked once is masked later too, with a value that no personal field holds', () => {
  const once = maskSample(sample, [system]);
  const [call] = maskRecords([{ ref: ref('call', 'K1'), record: { id: 'K1', to: '01632 960 555' } }], once, [
    system,
  ]);
  expect(call?.record['to']).not.toBe('01632 960 555');
});

test('the id of a record stays, though it be the same as a personal value', () => {
  const { event, masked } = maskSample(
    {
      ...sample,
      event: {
        ...sample.event,
        ref: ref('person', 'Runa'),
        record: { ...person, id: 'Tulloch', name: 'Runa' },
      },
    },
    [system],
  );
  expect(event.record['id']).toBe('Tulloch');
  expect(masked).not.toContain('book/person/id');
});

test('personal values within a list are masked as well, and wherever they stand elsewhere', () => {
  const crews: System = {
    ...system,
    recordTypes: system.recordTypes.map((type) =>
      type.name === 'person'
        ? {
            ...type,
            fields: [
              ...type.fields,
              {
                name: 'crew',
                label: 'Crew',
                type: 'list',
                fields: [text('who', { sensitivity: 'personal' }), text('task')],
              },
            ],
          }
        : type,
    ),
  };
  const record = {
    ...person,
    crew: [
      { who: 'Bram Oster', task: 'Deck' },
      { who: 'Runa Tulloch', task: 'Mate' },
    ],
  };
  const { event, masked } = maskSample({ ...sample, event: { ...sample.event, record } }, [crews]);
  expect(JSON.stringify(event)).not.toMatch(/Bram|Oster|Runa|Tulloch/);
  expect(event.record['crew']).toMatchObject([{ task: 'Deck' }, { who: event.record['name'], task: 'Mate' }]);
  expect(masked).toContain('book/person/crew.who');
});

test('law: values that differ stay different, so that what an event changed still changes', () => {
  const changing = (before: string, after: string, id: string) => {
    const event = {
      ...sample.event,
      id,
      record: { ...person, phone: after },
      before: { ...person, phone: before },
    };
    return maskSample({ ...sample, event }, [system]).event;
  };
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: 0, max: 999 }), { minLength: 2, maxLength: 2 }),
      fc.string({ minLength: 1, maxLength: 12 }),
      (ends, id) => {
        const [before = '', after = ''] = ends.map((end) => `01632 960 ${String(end).padStart(3, '0')}`);
        const event = changing(before, after, id);
        expect(event.record['phone']).not.toBe(event.before?.['phone']);
        expect(event.record['phone']).not.toBe(after);
      },
    ),
    { numRuns: 3000 },
  );
  const short = fc.string({ unit: fc.constantFrom(...'abcxyz'), minLength: 1, maxLength: 3 });
  fc.assert(
    fc.property(
      fc.uniqueArray(short, { minLength: 2, maxLength: 2 }),
      fc.string(),
      ([one = '', two = ''], id) => {
        const event = changing(one, two, id);
        expect(event.record['phone']).not.toBe(event.before?.['phone']);
      },
    ),
    { numRuns: 3000 },
  );
});

test('without the key nobody computes what stood there: with another one it comes to something else', () => {
  const { phone } = maskSample(sample, [system]).event.record;
  const others = Array.from({ length: 200 }, (_each, at) =>
    maskSampleBy(sample, [system], keyedBy(`guess ${at}`)),
  );
  // By chance one of 729 comes to the same three digits.
  expect(others.filter(({ event }) => event.record['phone'] === phone).length).toBeLessThan(8);
  expect(JSON.stringify(maskSample(sample, [system]))).not.toContain('the key');
});

const crew: System = {
  ...system,
  recordTypes: [
    {
      name: 'sailor',
      label: 'Sailor',
      plural: 'Sailors',
      idField: 'id',
      nameField: 'name',
      fields: [
        text('id'),
        text('name', { sensitivity: 'personal' }),
        { name: 'born', label: 'Born', type: 'date', sensitivity: 'personal' },
        { name: 'pay', label: 'Pay', type: 'decimal', sensitivity: 'personal' },
        { name: 'union', label: 'Union', type: 'boolean', sensitivity: 'secret' },
        {
          name: 'faith',
          label: 'Faith',
          type: 'choice',
          sensitivity: 'personal',
          options: ['a', 'b', 'c', 'd'].map((value) => ({ value, label: value })),
        },
        text('remark'),
        { name: 'rank', label: 'Rank', type: 'integer' },
      ],
    },
  ],
};
const sailor = {
  id: 'S1',
  name: 'Runa Tulloch',
  born: '1984-05-17',
  pay: 2450.75,
  union: true,
  faith: 'b',
  remark: 'Ask Tulloch (born 17/05/1984), or call 01632 960 120. The mate knows.',
  rank: 3,
};
const sailing = (record: Record<string, unknown>, id = 'e1'): Omit<Sample, 'id'> => ({
  name: 'Runa Tulloch is hired',
  note: 'For Tulloch.',
  event: {
    ...sample.event,
    id,
    ref: ref('sailor', 'S1'),
    record: record as typeof sample.event.record,
    input: { for: 'Runa Tulloch' },
  },
  records: [],
});

test('numbers, days, options, and yes or no are masked too, each as one of its kind', () => {
  const kinds = Array.from(
    { length: 60 },
    (_each, at) => maskSample(sailing(sailor, `e${at}`), [crew]).event.record,
  );
  for (const { born, pay, faith, rank, id } of kinds) {
    expect([born, pay]).not.toContain(sailor.born);
    expect(Number.isNaN(Date.parse(String(born)))).toBe(false);
    expect(String(pay)).toMatch(/^[1-9]\d{3}\.\d[1-9]$/);
    expect(pay).not.toBe(sailor.pay);
    expect(['a', 'c', 'd']).toContain(faith);
    expect([rank, id]).toEqual([3, 'S1']);
  }
  // Whether it was yes or no cannot be told from what it is.
  const yes = kinds.filter((record) => record['union'] === true).length;
  expect(yes).toBeGreaterThan(15);
  expect(yes).toBeLessThan(45);
});

test('personal values inside longer texts, in the name of the sample and in what a person typed are masked', () => {
  const other = { ...sailor, remark: 'Ask Tulloch. The mate knows.' };
  const masked = maskSample(sailing(other), [crew]);
  expect(JSON.stringify(masked)).not.toMatch(/Runa|Tulloch/i);
  const [first, last] = String(masked.event.record['name']).split(' ');
  expect(masked.event.record['remark']).toBe(`Ask ${last}. The mate knows.`);
  expect(masked.name).toBe(`${first} ${last} is hired`);
  expect(masked.event.input).toEqual({ for: `${first} ${last}` });
});

test('a personal number within a text is masked as it is where it stands alone', () => {
  const { expected: _expected, ...without } = sample;
  const to = 'call 01632 960 120, and 01632 111 222';
  const masked = maskSample({ ...without, records: [{ ref: ref('call', 'K1'), record: { id: 'K1', to } }] }, [
    system,
  ]);
  expect(masked.records[0]?.record['to']).toBe(
    `call ${String(masked.event.record['phone'])}, and 01632 111 222`,
  );
});

test('of a field that is masked nothing is left to read, whatever stands beside the words', () => {
  const name = 'Runa, 12 Quay Row, born 17/05/1984, 01632 960 120';
  const masked = maskSample({ ...sample, event: { ...sample.event, record: { ...person, name } } }, [system]);
  const shown = String(masked.event.record['name']);
  expect(shown).toMatch(
    /^[A-Z][a-z]{3}, \d\d [A-Z][a-z]{3} [A-Z][a-z]{2}, [a-z]{4} \d\d\/\d\d\/\d{4}, 01632 960 \d{3}$/,
  );
  for (const part of ['Runa', ' 12 ', 'Quay', '17/05/1984', '960 120']) expect(shown).not.toContain(part);
});

test('what somebody expects later of a masked sample, as it is in life, is masked; what is masked already stays', () => {
  const once = maskSample(sample, [system]);
  const expected = (value: string) => ({
    records: [
      { key: 'book/person/P1', deed: 'write' as const, fields: { phone: { is: 'equal' as const, value } } },
    ],
    messages: [],
    problems: [],
  });
  const phoneOf = (value: string) =>
    maskExpected(expected(value), once, [system], keyed).records[0]?.fields['phone'];
  expect(phoneOf('01632 960 120')).toEqual({ is: 'equal', value: once.event.record['phone'] });
  expect(phoneOf(String(once.event.record['phone']))).toEqual({
    is: 'equal',
    value: once.event.record['phone'],
  });
});

test('law: two numbers, and two days, stay two', () => {
  const of = (field: string, value: unknown, id: string) =>
    JSON.stringify(maskSample(sailing({ ...sailor, [field]: value }, id), [crew]).event.record[field]);
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: -99_999, max: 99_999 }), { minLength: 2, maxLength: 2 }),
      fc.string(),
      ([one, other], id) => {
        expect(of('pay', one, id)).not.toBe(of('pay', other, id));
      },
    ),
    { numRuns: 400 },
  );
  const day = fc
    .integer({ min: 0, max: 40_000 })
    .map((days) => new Date(Date.UTC(1920, 0, 1 + days)).toISOString().slice(0, 10));
  fc.assert(
    fc.property(fc.uniqueArray(day, { minLength: 2, maxLength: 2 }), fc.string(), ([one, other], id) => {
      expect(of('born', one, id)).not.toBe(of('born', other, id));
    }),
    { numRuns: 400 },
  );
});

test('the same day, written with the day first, becomes the same one', () => {
  const record = { ...sailor, remark: '17/05/1984' };
  const { born, remark } = maskSample(sailing(record), [crew]).event.record;
  expect(String(remark).split('/').reverse().join('-')).toBe(born);
});
