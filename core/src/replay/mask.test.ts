import fc from 'fast-check';
import type { Field, System } from '../model/system';
import type { Sample } from '../model/sample';
import { maskRecords, maskSample } from './mask';

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
