import { line, rule, said } from './testDesk';

test('secret values are refused, personal ones warned of', () => {
  expect(said(rule([line('zone', 'LEFT(pin, 3)')]), 'sensitive outside')).toEqual([
    'error: “PIN” is secret and would leave for Desk.',
  ]);
  expect(said(rule([line('title', 'LEFT(phone, 60)')]), 'sensitive outside')).toEqual([
    'warning: “Phone” is personal; “Title” in Desk is not marked as holding personal values.',
  ]);
  expect(said(rule([line('ownerPhone', 'phone')]), 'sensitive outside')).toEqual([]);
});

test('what a message tells is told to whoever gets it; what decides whether it is sent is not', () => {
  const sends = (formula: string, only?: string) =>
    rule([], {
      finds: [],
      actions: [
        {
          kind: 'send',
          endpoint: 'board',
          type: 'company.changed',
          parts: [{ name: 'part', formula }],
          ...(only !== undefined && { only }),
        },
      ],
    });
  expect(said(sends('"PIN " & pin'), 'sensitive outside')).toEqual([
    'error: “PIN” is secret and would be told to whoever gets the message.',
  ]);
  expect(said(sends('phone'), 'sensitive outside')).toEqual([
    'warning: “Phone” is personal and would be told to whoever gets the message.',
  ]);
  expect(said(sends('name', 'pin <> ""'), 'sensitive outside')).toEqual([]);
});

test('a form that is looked at first does not show secrets', () => {
  const made = (review: boolean) =>
    rule([], {
      finds: [],
      actions: [
        {
          kind: 'create',
          alias: 'made',
          system: 'book',
          recordType: 'company',
          review,
          lines: [line('name', 'pin')],
        },
      ],
    });
  expect(said(made(true), 'sensitive outside')).toEqual([
    'error: “PIN” is secret and would stand on the form that whoever runs the rule looks at.',
  ]);
  expect(said(made(false), 'sensitive outside')).toEqual([]);
});

test('a list that is gone through leaves nothing but what is taken of its elements', () => {
  const of = (formula: string) => said(rule([line('shifts', formula)]), 'sensitive outside');
  expect(of('EACH(crew, OBJECT("task", item.task))')).toEqual([]);
  expect(of('EACH(crew, OBJECT("task", item.who))')).toEqual([
    'warning: “Who” is personal; “Shifts” in Desk is not marked as holding personal values.',
  ]);
  for (const whole of [
    'crew',
    'KEEP(crew, item.hours > 3)',
    'FIRST(crew, item.hours > 3)',
    'EACH(crew, item)',
  ])
    expect(of(whole)).toEqual([
      'warning: “Who” is personal; “Shifts” in Desk is not marked as holding personal values.',
    ]);
});

test('what a file holds, and what it is called, is told to whoever gets it', () => {
  const file = (name: string, formula: string) =>
    rule([], {
      finds: [],
      actions: [
        {
          kind: 'file',
          name,
          format: 'csv',
          to: { kind: 'download' },
          columns: [{ name: 'Column', formula }],
        },
      ],
    });
  expect(said(file('"list"', 'phone'), 'sensitive outside')).toEqual([
    'warning: “Phone” is personal and would be told to whoever gets the file.',
  ]);
  expect(said(file('pin', 'name'), 'sensitive outside')).toEqual([
    'error: “PIN” is secret and would be told to whoever gets the file.',
  ]);
});
