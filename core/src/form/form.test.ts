import type { JsonObject } from '../model/json';
import type { RecordType } from '../model/system';
import { answerOf, leadsFurther } from './answer';
import { compileForm } from './compileForm';
import { formSchema, type Form, type FormItem } from './form';
import { formFindings, typeProblem } from './formFindings';
import { formPage } from './page';
import { proposeForm } from './proposeForm';

const type: RecordType = {
  name: 'cargo questionnaire',
  label: 'Cargo questionnaire',
  plural: 'Cargo questionnaires',
  idField: 'number',
  nameField: 'booking',
  fields: [
    { name: 'number', label: 'Number', type: 'text', readOnly: true },
    { name: 'booking', label: 'Booking', type: 'text', required: true, maxLength: 10 },
    { name: 'weight', label: 'Weight in kg', type: 'integer', min: 1, max: 24_000 },
    {
      name: 'care',
      label: 'What needs care',
      type: 'multichoice',
      options: [
        { value: 'UP', label: 'Keep upright' },
        { value: 'CH', label: 'Keep chilled' },
        { value: 'LV', label: 'Live animals' },
      ],
    },
    { name: 'temperature', label: 'Warmest it may be', type: 'decimal', required: true },
    { name: 'insured', label: 'Insured', type: 'boolean' },
    { name: 'ready', label: 'Ready from', type: 'datetime' },
    { name: 'day', label: 'Day of sailing', type: 'date' },
    {
      name: 'port',
      label: 'Port',
      type: 'choice',
      options: [
        { value: 'SKW', label: 'Skerrywick' },
        { value: 'NOR', label: 'Norhaven' },
      ],
    },
    { name: 'lines', label: 'Lines', type: 'list' },
  ],
};

const question = (field: string, more: Partial<Extract<FormItem, { kind: 'question' }>> = {}): FormItem => ({
  kind: 'question',
  field,
  hint: '',
  shown: '',
  ...more,
});
const note = (text: string, shown: string, stops = false): FormItem => ({ kind: 'note', text, shown, stops });
const formOf = (...items: readonly FormItem[]): Form => ({
  address: 'cargo',
  title: 'Cargo',
  intro: '',
  thanks: '',
  open: true,
  zone: 'Europe/London',
  items,
});
const time = '2026-03-09T10:00:00Z';
const answer = (items: readonly FormItem[], given: JsonObject) =>
  answerOf(compileForm(formOf(...items), type), given, { time });

describe('an answer', () => {
  test('is read by the names of fields or the labels of questions, with choices by codes or labels', () => {
    const items = [question('booking'), question('care'), question('port'), question('insured')];
    const expected = { booking: 'B-1', care: ['CH', 'LV'], port: 'NOR', insured: true };
    expect(answer(items, { booking: 'B-1', care: ['CH', 'LV'], port: 'NOR', insured: true })).toMatchObject({
      record: expected,
      problems: [],
      leftOut: [],
    });
    expect(
      answer(items, {
        Booking: ' B-1 ',
        'what needs care': ['keep chilled', 'Live animals', 'Keep chilled'],
        PORT: 'Norhaven',
        Insured: 'on',
        utm_source: 'mail',
      }),
    ).toMatchObject({ record: expected, problems: [], leftOut: ['utm_source'] });
  });

  test('is text in the composed form of Unicode, whatever was typed', () => {
    // Unicode Standard Annex 15: e and a combining acute are one letter with the accent.
    expect(answer([question('booking')], { booking: 'Caf\u0065\u0301' }).record).toEqual({
      booking: 'Caf\u00e9',
    });
  });

  test('of one box by itself is a list of one', () => {
    expect(answer([question('care')], { care: 'UP' }).record).toEqual({ care: ['UP'] });
  });

  test('of a time is in the zone of the form, in summer as in winter', () => {
    expect(answer([question('ready')], { ready: '2026-07-01T09:30' }).record).toEqual({
      ready: '2026-07-01T08:30:00Z',
    });
    expect(answer([question('ready')], { ready: '2026-01-01T09:30' }).record).toEqual({
      ready: '2026-01-01T09:30:00Z',
    });
  });

  test.each<[string, FormItem, JsonObject, string]>([
    ['nothing where something has to be', question('booking'), {}, 'Please answer “Booking”.'],
    ['spaces alone', question('booking'), { booking: '  ' }, 'Please answer “Booking”.'],
    [
      'a text that is too long',
      question('booking'),
      { booking: 'B-123456789' },
      '“Booking” holds 10 characters at most, and the value has 11.',
    ],
    [
      'words for a number',
      question('weight'),
      { weight: 'heavy' },
      '“Weight in kg” takes a number, such as 250.',
    ],
    [
      'a number beyond its limit',
      question('weight'),
      { weight: '24001' },
      '“Weight in kg” is 24000 at most, and the value is 24001.',
    ],
    [
      'a part of a whole number',
      question('weight'),
      { weight: '2.5' },
      '“Weight in kg” takes whole numbers, and the value is 2.5.',
    ],
    [
      'a choice that there is not',
      question('port'),
      { port: 'Westport' },
      '“Westport” is none of the choices of “Port”.',
    ],
    [
      'an object for a choice',
      question('port'),
      { port: { code: 'NOR' } },
      '“” is none of the choices of “Port”.',
    ],
    [
      'fewer than are wanted',
      question('care', { few: 2 }),
      { care: ['UP'] },
      'Please choose at least 2 of “What needs care”.',
    ],
    [
      'more than are taken',
      question('care', { most: 1 }),
      { care: ['UP', 'CH'] },
      'Please choose 1 of “What needs care” at most; 2 are chosen.',
    ],
    ['no day', question('day'), { day: '30 February' }, '“Day of sailing” takes a day, such as 2026-03-09.'],
    ['maybe', question('insured'), { insured: 'maybe' }, 'Please answer “Insured” with yes or no.'],
    ['a list for a text', question('booking'), { booking: ['a', 'b'] }, '“Booking” takes one text.'],
  ])('%s is refused with its reason', (_what, item, given, because) => {
    const field = item.kind === 'question' ? item.field : '';
    expect(answer([item], given).problems).toEqual([{ field, because }]);
  });
});

describe('conditions', () => {
  const items = [
    question('care'),
    question('temperature', { shown: 'ONEOF("CH", care)' }),
    question('weight'),
    note('Heavy loads are lifted on board by crane.', 'weight > 5000'),
    note('Loads of this weight are booked by telephone.', 'weight > 20000', true),
  ];

  test('what is not shown is neither wanted nor taken', () => {
    expect(answer(items, { care: ['UP'], temperature: '-18' })).toEqual({
      record: { care: ['UP'] },
      problems: [],
      shown: [0, 2],
      leftOut: [],
    });
  });

  test('what is shown is wanted', () => {
    expect(answer(items, { care: ['CH'] }).problems).toEqual([
      { field: 'temperature', because: 'Please answer “Warmest it may be”.' },
    ]);
    expect(answer(items, { care: ['CH'], temperature: '-18.5' }).record).toEqual({
      care: ['CH'],
      temperature: -18.5,
    });
  });

  test('a threshold says what follows, and a higher one stops the answer', () => {
    expect(answer(items, { weight: '5000' }).shown).toEqual([0, 2]);
    expect(answer(items, { weight: '5001' })).toMatchObject({ shown: [0, 2, 3], problems: [] });
    expect(answer(items, { weight: '20001' })).toMatchObject({
      shown: [0, 2, 3, 4],
      problems: [{ because: 'Loads of this weight are booked by telephone.' }],
    });
  });

  test('it is told whether an answer leads to what was not asked', () => {
    const compiled = compileForm(formOf(...items), type);
    const answered = answerOf(compiled, { care: ['CH'] }, { time });
    expect(leadsFurther(compiled, answered, new Set([0, 2]))).toBe(true);
    expect(leadsFurther(compiled, answered, new Set([0, 1, 2]))).toBe(false);
  });

  test('one that fails is a sentence, and no end of the page', () => {
    expect(answer([question('booking', { shown: '1 / 0 > 1' })], {}).problems).toEqual([
      { because: expect.stringContaining('A condition of the form failed: ') as string },
    ]);
  });
});

describe('findings', () => {
  const of = (...items: readonly FormItem[]) =>
    formFindings(formOf(question('booking'), question('temperature'), ...items), type).map(
      ({ at, severity, because }) => [at, severity, because],
    );

  test('a form that asks for what it has to has none', () => {
    expect(of()).toEqual([]);
    expect(formFindings({ ...proposeForm(type, { address: 'a', zone: 'UTC' }) }, type)).toEqual([]);
  });

  test.each<[string, readonly FormItem[], unknown]>([
    [
      'a field that there is not',
      [question('colour')],
      [2, 'error', 'Cargo questionnaire has no field “colour”.'],
    ],
    ['a field that is asked twice', [question('booking')], [2, 'error', '“Booking” is asked twice.']],
    [
      'a list of objects',
      [question('lines')],
      [2, 'error', '“Lines” holds more than one value can say, and cannot be asked.'],
    ],
    [
      'a field that is given by itself',
      [question('number')],
      [2, 'error', '“Number” is given by itself, and cannot be asked.'],
    ],
    [
      'a condition that gives a number',
      [question('weight', { shown: '1 + 1' })],
      [2, 'error', 'The condition must give yes or no.'],
    ],
    [
      'a condition over what is asked later',
      [question('port', { shown: 'insured' }), question('insured')],
      [2, 'warning', 'Its condition looks at “Insured”, which is asked later: it would always be blank.'],
    ],
    [
      'more choices than there are',
      [question('care', { few: 4 })],
      [2, 'error', 'Of “What needs care”, 4 are to be chosen at least, and 3 can be.'],
    ],
    ['a note without words', [note(' ', '')], [2, 'warning', 'The note says nothing.']],
  ])('%s is told', (_what, items, expected) => {
    expect(of(...items)).toEqual([expected]);
  });

  test('a required field that is not asked, a form that asks nothing, and a zone that there is not are told', () => {
    const found = formFindings({ ...formOf(), zone: 'Europe/Nowhere' }, type);
    expect(found.map(({ at, severity }) => [at, severity])).toEqual([
      ['items', 'error'],
      ['items', 'error'],
      ['items', 'warning'],
      ['zone', 'error'],
    ]);
  });

  test('two choices with one label or one code are told', () => {
    const options = [
      { value: 'a', label: 'One' },
      { value: 'a', label: 'Two' },
      { value: 'b', label: 'Two' },
    ];
    const twice: RecordType = {
      ...type,
      fields: [{ name: 'choice', label: 'Choice', type: 'choice', options }],
    };
    expect(formFindings(formOf(question('choice')), twice).map(({ because }) => because)).toEqual([
      '“Choice” has the choice “Two” twice.',
      'Two choices of “Choice” have the code “a”.',
    ]);
  });
});

test('fields make a record type where no two have one name, and those are there by which it is known and called', () => {
  const without = (name: string) => ({ ...type, fields: type.fields.filter((field) => field.name !== name) });
  expect(typeProblem(type)).toBeUndefined();
  expect(typeProblem(without('number'))).toBe(
    'Cargo questionnaire has no field “number”, by which its records are known.',
  );
  expect(typeProblem(without('booking'))).toContain('after which its records are called');
  expect(
    typeProblem({ ...type, fields: [...type.fields, { name: 'day', label: 'Day', type: 'date' }] }),
  ).toBe('Cargo questionnaire has two fields called “day”.');
});

test('what a form says of itself is checked where it comes from outside', () => {
  expect(formSchema.validate(formOf(question('booking'))).error).toBeUndefined();
  expect(formSchema.validate({ ...formOf(), address: 'Cargo Form' }).error?.message).toContain('address');
  expect(formSchema.validate({ ...formOf(), items: [{ kind: 'picture' }] }).error?.message).toContain('kind');
});

test('the page holds nothing of an answer as anything but text', () => {
  const compiled = compileForm(formOf(question('booking')), type);
  const given = { booking: '"><script>alert(1)</script>' };
  const answered = answerOf(compiled, given, { time });
  const html = formPage({ compiled, given, answered, problems: answered.problems, pass: '' });
  expect(html).not.toContain('<script>alert');
  expect(html).toContain('&quot;&gt;&lt;script&gt;');
});
