import { linesIn } from '../engine/actions';
import { line, mended, rule, said } from './testDesk';

describe('types that do not fit', () => {
  test.each([
    ['joined', 'crates', 'error: “Joined” takes date, and the formula gives integer.'],
    ['joined', 'name', 'error: “Joined” takes date, and the formula gives text; it has to be converted.'],
    [
      'joined',
      'seen',
      'warning: “Joined” takes date, and the formula gives date-time: a value with the time of day fails.',
    ],
    [
      'zone',
      'labels',
      'error: “Zone” takes text, and the formula gives list of choice; it has to be converted.',
    ],
  ])('%s from %s', (field, formula, sentence) => {
    expect(said(rule([line(field, formula)]), 'misfit type')).toEqual([sentence]);
  });

  test.each([
    ['joined', 'name', 'DATEVALUE(name)'],
    ['joined', 'seen', 'LOCALDATE(seen, "UTC")'],
    ['zone', 'labels', 'TEXTJOIN(", ", TRUE, labels)'],
    ['rank', 'name', 'ROUND(VALUE(name))'],
  ])('the offered conversion makes %s from %s fit', (field, formula, converted) => {
    const after = mended(rule([line(field, formula)]), 'misfit type');
    expect(linesIn(after.actions[0])[0]?.formula).toBe(converted);
    expect(said(after, 'misfit type').filter((sentence) => sentence.startsWith('error'))).toEqual([]);
  });

  test('decimals that a whole number would lose are warned of, and rounding is offered', () => {
    const subject = rule([line('rank', 'MAX(1, MIN(9, credit))')]);
    expect(said(subject, 'misfit type')).toEqual([
      'warning: “Rank” takes integer, and the formula gives decimal: a value with decimals fails.',
    ]);
    expect(linesIn(mended(subject, 'misfit type').actions[0])[0]?.formula).toBe(
      'ROUND(MAX(1, MIN(9, credit)))',
    );
  });
});

test.each([
  ['EACH(crew, OBJECT("task", item.task, "hours", item.hours))', undefined],
  ['PARSEJSON(name)', undefined],
  ['crew', '“Shifts” has no field “who”, which the formula gives.'],
  [
    'EACH(crew, OBJECT("hours", item.hours))',
    '“Task” of “Shifts” is required, and the formula does not give it.',
  ],
  [
    'EACH(crew, OBJECT("task", "x", "hours", item.task))',
    '“Hours” of “Shifts” takes integer, and the formula gives text.',
  ],
  [
    'EACH(crew, OBJECT("task", item.task, "gear", OBJECT("colour", "red")))',
    '“Gear” has no field “colour”, which the formula gives.',
  ],
  ['crew.task', '“Shifts” takes list of objects, and the formula gives list of text.'],
  ['name', '“Shifts” takes list of objects, and the formula gives text.'],
])('a list of objects takes %s, or says why not', (formula, message) => {
  expect(said(rule([line('shifts', formula)]), 'misfit type')).toEqual(
    message === undefined ? [] : [`error: ${message}`],
  );
});

test('a list of objects goes into no field for one value', () => {
  expect(said(rule([line('title', 'crew')]), 'misfit type')).toEqual([
    expect.stringContaining('“Title” takes text, and the formula gives list of objects') as string,
  ]);
});
