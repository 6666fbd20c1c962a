/** Lists of objects: what of them changed, what formulas read of them, what is created from them, and how they are written. */
import fc from 'fast-check';
import { changedPaths, sameValue } from '../model/equal';
import type { ChangeEvent } from '../model/event';
import type { Json, JsonObject } from '../model/json';
import { compile } from '../formula/compile';
import { FormulaError } from '../formula/error';
import { toJson } from '../formula/toJson';
import { completionsAt } from '../formula/complete';
import { compileRule } from './compileRule';
import { catalog, find, line, ref, rule, run, stored, surroundings, write, written } from './testHarbour';
import type { Action } from './actions';
import type { MappingLine } from './actions/mappingLine';
import { scopeAt } from './scopes';
import { envOf } from './testEnv';

const orderType = catalog.recordType('book', 'order');
const fields = orderType?.fields ?? [];
const listField = fields.find(({ name }) => name === 'lines');
if (!listField?.fields) throw new Error('the order has no lines');

const nets = { no: 1, goods: 'Nets', kg: 120.5, due: '2026-03-09' };
const rope = { no: 2, goods: 'Rope', kg: 40 };
const salt = { no: 3, goods: 'Salt', kg: 900 };

function ordered(now: readonly Json[], before: readonly Json[]): ChangeEvent {
  const [record, earlier]: JsonObject[] = [
    { id: 'O1', name: 'First', lines: [...now] },
    { id: 'O1', name: 'First', lines: [...before] },
  ];
  return {
    id: 'e1',
    source: '/book',
    kind: 'updated',
    ref: ref('order', 'O1'),
    time: '2026-03-09T09:00:00Z',
    record: record ?? {},
    before: earlier ?? {},
    changed: changedPaths(fields, earlier, record),
  };
}
const trigger = (watched: readonly string[]) => ({
  system: 'book',
  recordType: 'order',
  kinds: ['updated'] as const,
  watched,
});

/** Creates a job for each element of a list, named after its goods. */
const jobForEach = (each: string): Action => ({
  kind: 'create',
  alias: 'made',
  system: 'desk',
  recordType: 'job',
  each,
  lines: [line('name', 'item.goods')],
});

describe('what of a list changed', () => {
  const changed = (a: readonly Json[], b: readonly Json[]) =>
    changedPaths(fields, { id: 'O1', lines: [...a] }, { id: 'O1', lines: [...b] });

  test('a field of an element is named by the list and its name', () => {
    expect(changed([nets, rope], [nets, { ...rope, kg: 41 }])).toEqual(['lines.kg']);
    expect(
      changed(
        [nets, rope],
        [
          { ...nets, due: '2026-03-10' },
          { ...rope, kg: 41 },
        ],
      ),
    ).toEqual(['lines.due', 'lines.kg']);
  });

  test('an element that comes or goes changes what it holds', () => {
    expect(changed([nets], [nets, rope])).toEqual(['lines.no', 'lines.goods', 'lines.kg']);
    expect(changed([nets, rope], [rope])).toEqual(['lines.no', 'lines.goods', 'lines.kg', 'lines.due']);
    expect(changed([], [])).toEqual([]);
  });

  test('under a key field the order does not matter; without one it does', () => {
    expect(changed([nets, rope], [rope, nets])).toEqual([]);
    const { keyField: _key, ...byPosition } = listField;
    expect(sameValue(byPosition, [nets, rope], [rope, nets])).toBe(false);
  });

  test('elements are the same by the types of their fields, blanks included', () => {
    const told = { no: '2', goods: 'Rope', kg: '40.0', due: null, company: '' };
    expect(changed([rope], [told])).toEqual([]);
    expect(changed([{ ...nets, due: '2026-03-09T00:00' }], [nets])).toEqual([]);
  });

  test('a shuffled list under a key is the same, and one changed field is found wherever it stands', () => {
    const list = fc.uniqueArray(
      fc.record({ no: fc.nat(20), goods: fc.constantFrom('Nets', 'Rope', ''), kg: fc.nat(9) }),
      { selector: ({ no }) => no, maxLength: 8 },
    );
    fc.assert(
      fc.property(list, fc.infiniteStream(fc.nat()), fc.nat(7), (elements, order, at) => {
        const numbers = order.take(elements.length);
        const shuffled = elements
          .map((element) => [numbers.next().value ?? 0, element] as const)
          .sort(([a], [b]) => a - b)
          .map(([, element]) => element);
        expect(changed(elements, shuffled)).toEqual([]);
        const element = shuffled[at];
        if (!element) return;
        const other = shuffled.map((each) => (each === element ? { ...each, kg: each.kg + 1 } : each));
        expect(changed(elements, other)).toEqual(['lines.kg']);
        expect(sameValue(listField, elements, other)).toBe(false);
      }),
      { seed: 21 },
    );
  });

  test('a rule starts at the fields of elements that it watches, and at no others', async () => {
    const rules = [rule([write('record', line('name', '"heavier"'))], { trigger: trigger(['lines.kg']) })];
    const lighter = await run(ordered([nets, { ...rope, kg: 1 }], [nets, rope]), rules);
    expect(written(lighter.writes)).toEqual(['order/O1 name="heavier"']);
    const renamed = await run(ordered([nets, { ...rope, goods: 'Twine' }], [nets, rope]), rules);
    expect(renamed.writes).toEqual([]);
    const [tried] = renamed.rules;
    expect(tried?.because).toBe('Only Lines › goods changed; the rule watches Lines › Kg.');
  });

  test('no value within a list can be turned from or to', () => {
    const turning = rule([write('record', line('name', '"x"'))], {
      trigger: { ...trigger(['lines.kg']), turns: [{ field: 'lines.kg', to: '5' }] },
    });
    const result = compileRule({ ...turning, id: 'r', version: 1 }, surroundings);
    expect(result.ok ? [] : result.problems.map(({ error }) => error.message)).toEqual([
      '“lines.kg” lies within a list, so that it has no one value to turn from or to.',
    ]);
  });
});

describe('what formulas read of a list', () => {
  const event = ordered([nets, rope, salt], [nets, { ...rope, kg: 41 }]);
  const scope = scopeAt({ ...rule([]), trigger: trigger([]) }, 'guard', surroundings);
  if (!scope) throw new Error('no scope');
  const give = (source: string): Json | string => {
    const compiled = compile(source, scope);
    if (!compiled.ok) return compiled.errors.map(({ message }) => message).join(' ');
    const value = compiled.formula.run(envOf(event));
    return value instanceof FormulaError ? value.message : toJson(value);
  };

  test.each<[string, Json]>([
    ['lines.goods', ['Nets', 'Rope', 'Salt']],
    ['lines.due', ['2026-03-09']],
    ['SUM(lines.kg)', 1060.5],
    ['COUNTA(lines)', 3],
    ['COUNTA(before.lines)', 2],
    ['EACH(lines, item.goods & " " & item.kg)', ['Nets 120.5', 'Rope 40', 'Salt 900']],
    ['SUM(EACH(KEEP(lines, item.kg > 100), item.kg))', 1020.5],
    ['KEEP(lines, item.no = 2)', [rope]],
    ['FIRST(lines, item.kg > 100, item.goods)', 'Nets'],
    ['FIRST(lines, item.kg > 5000, item.goods)', null],
    ['EACH(lines, IF(ISBLANK(item.due), item.no))', [2, 3]],
    ['lines = lines', true],
    ['lines = before.lines', false],
    ['INDEX(lines, -1)', salt],
    ['CHANGED(lines)', true],
    ['CHANGED(lines.kg)', true],
    ['CHANGED(lines.due)', false],
    ['ISBLANK(KEEP(lines, item.kg < 0))', true],
    ['COUNTA(UNIQUE(EACH(lines, OBJECT("a", 1, "b", item.due))))', 2],
    [
      'EACH(lines, OBJECT("code", LEFT(item.goods, 3), "kg", item.kg))',
      [
        { code: 'Net', kg: 120.5 },
        { code: 'Rop', kg: 40 },
        { code: 'Sal', kg: 900 },
      ],
    ],
    ['FIRST(EACH(lines, OBJECT("c", item.goods, "w", item.kg * 2)), item.w = 80, item.c)', 'Rope'],
  ])('%s', (source, value) => expect(give(source)).toEqual(value));

  test.each([
    ['EACH(lines, item.weight)', '“item” has no field “weight”.'],
    ['EACH(lines, item.company.name)', '“item” has no field “company.name”.'],
    ['lines > before.lines', undefined],
    ['SORT(lines)', 'An object cannot be compared with an object.'],
    ['OBJECT("a", 1, "a", 2)', 'The object would have two fields “a”.'],
    ['OBJECT(name, 1)', 'The name of a field stands in quotes.'],
    ['OBJECT("a")', 'OBJECT is written OBJECT("name", value, …).'],
    ['FIRST(lines, 3)', undefined],
  ])('%s is a mistake that is said', (source, message) => {
    const said = give(source);
    expect(typeof said).toBe('string');
    if (message !== undefined) expect(said).toContain(message);
  });

  test('a list that is equal for the change detector is equal for a formula', () => {
    const told = ordered([{ ...rope, kg: '40.0' }, nets], [nets, rope]);
    expect(told.changed).toEqual([]);
    const compiled = compile('lines = before.lines', scope);
    expect(compiled.ok && compiled.formula.run(envOf(told))).toBe(true);
  });

  test('behind “item.” the fields of the element are offered', () => {
    const labels = (source: string) =>
      completionsAt(source, source.length, scope).options.map(({ label }) => label);
    expect(labels('EACH(lines, item.')).toEqual(['no', 'goods', 'kg', 'due', 'company']);
    expect(labels('EACH(KEEP(lines, item.kg > 1), item.')).toEqual(['no', 'goods', 'kg', 'due', 'company']);
    expect(labels('EACH(EACH(lines, OBJECT("c", item.goods)), item.')).toEqual(['c']);
    expect(labels('lines.')).toEqual(['no', 'goods', 'kg', 'due', 'company']);
    expect(labels('EACH(lines.goods, item.')).toEqual([]);
  });
});

describe('records from elements', () => {
  test('one is created for each, and reads its fields', async () => {
    const creating = rule(
      [
        {
          kind: 'create',
          alias: 'made',
          system: 'desk',
          recordType: 'job',
          each: 'KEEP(lines, item.kg > 100)',
          lines: [line('name', 'item.goods & " of " & name'), line('day', 'item.due')],
        },
      ],
      { trigger: trigger([]) },
    );
    const report = await run(ordered([nets, rope, salt], []), [creating]);
    expect(written(report.writes)).toEqual([
      'create job name="Nets of First" day="2026-03-09"',
      'create job name="Salt of First"',
    ]);
  });
});

test('ten thousand elements become as many records, and more than that are refused as a whole', async () => {
  const lines = (count: number) =>
    Array.from({ length: count }, (_none, at) => ({ no: at, goods: `G${at}` }));
  const each = rule([jobForEach('lines')], { trigger: trigger([]) });
  expect((await run(ordered(lines(10_000), []), [each])).writes).toHaveLength(10_000);
  const { rules, writes } = await run(ordered(lines(10_001), []), [each]);
  expect(writes).toEqual([]);
  expect(rules[0]?.because).toContain('10001 records would be created at once; at most 10,000 are.');
});

test('a list with no element creates nothing, and the actions after it go on', async () => {
  const creating = (after: MappingLine) =>
    rule([jobForEach('KEEP(lines, item.kg > 100)'), write('record', after)], { trigger: trigger([]) });
  const event = ordered([rope], []);
  const counted = await run(event, [creating(line('name', 'COUNTA(lines) & " line"'))]);
  expect(written(counted.writes)).toEqual(['order/O1 name="1 line"']);
  const { writes, rules } = await run(event, [creating(line('name', 'made.name'))]);
  expect(writes).toEqual([]);
  expect(rules[0]?.verdict).not.toBe('failed');
  expect(JSON.stringify(rules)).toContain('There is no “made” to take it from.');
});

describe('lists and objects that are written', () => {
  const to = (formula: string, more = {}) =>
    rule([write('delivery', line('items', formula, more))], {
      trigger: trigger([]),
      finds: [find('delivery', 'name', 'name')],
    });
  const delivery = (fields: JsonObject) => [stored('delivery', 'D1', { name: 'First', ...fields })];
  const items = 'EACH(lines, OBJECT("code", UPPER(item.goods), "grams", item.kg * 1000))';
  const event = ordered(
    [
      { ...nets, kg: 0.5 },
      { ...rope, kg: 2 },
    ],
    [],
  );

  test('a list is written whole', async () => {
    const { writes } = await run(event, [to(items)], delivery({}));
    expect(written(writes)).toEqual([
      'delivery/D1 items=[{"code":"NETS","grams":500},{"code":"ROPE","grams":2000}]',
    ]);
  });

  test('what stands there in another order, told another way, is not written', async () => {
    const there = [
      { code: 'ROPE', grams: '2000' },
      { code: 'NETS', grams: 500 },
    ];
    const { writes } = await run(event, [to(items)], delivery({ items: there }));
    expect(writes).toEqual([]);
  });

  test('“never clear” puts elements beside those that are there, by their key', async () => {
    const there = [
      { code: 'SALT', grams: 1 },
      { code: 'ROPE', grams: 3 },
    ];
    const { writes } = await run(event, [to(items, { policy: 'never clear' })], delivery({ items: there }));
    expect(written(writes)).toEqual([
      'delivery/D1 items=[{"code":"SALT","grams":1},{"code":"ROPE","grams":2000},{"code":"NETS","grams":500}]',
    ]);
  });

  test.each([
    [
      'EACH(lines, OBJECT("code", item.goods, "grams", 99999))',
      'Element 1 of “Items”: “Grams” is 50000 at most, and the value is 99999.',
    ],
    [
      'EACH(lines, OBJECT("code", item.goods & " of the sea", "grams", 1))',
      'Element 1 of “Items”: “code” holds 6 characters at most, and the value has 15.',
    ],
    ['EACH(lines, OBJECT("code", "X", "grams", 1))', '“Items” would have two elements “X”.'],
    [
      'EACH(lines, OBJECT("code", IF(item.no = 1, "A"), "grams", 1))',
      'Element 2 of “Items”: “code” is required and would be left blank.',
    ],
    ['PARSEJSON("[{""code"": ""A"", ""kilos"": 1}]")', 'Element 1 of “Items”: “Items” has no field “kilos”.'],
    ['PARSEJSON("[7]")', 'Element 1 of “Items”: an object is wanted, and the formula gave a number.'],
  ])('%s does not fit, and says where', async (formula, because) => {
    const report = await run(event, [to(formula)], delivery({}));
    expect(report.writes).toEqual([]);
    expect(JSON.stringify(report.rules)).toContain(JSON.stringify(because).slice(1, -1));
  });

  test('an object is written field by field; what it does not say is cleared, and what no schema knows stays', async () => {
    const whole = rule([write('delivery', line('place', 'OBJECT("town", "Northport")'))], {
      trigger: trigger([]),
      finds: [find('delivery', 'name', 'name')],
    });
    const there = { place: { town: 'Southport', gate: 'B2', colour: 'red' } };
    const { writes } = await run(event, [whole], delivery(there));
    expect(written(writes)).toEqual(['delivery/D1 place.town="Northport" place.gate=null']);
    const again = await run(event, [whole], delivery({ place: { town: 'Northport', colour: 'red' } }));
    expect(again.writes).toEqual([]);
  });
});

test('of a line for an object and one for a field of it, the later one holds', async () => {
  const both = (...lines: readonly MappingLine[]) =>
    rule([write('delivery', ...lines)], {
      trigger: trigger([]),
      finds: [find('delivery', 'name', 'name')],
    });
  const there = [stored('delivery', 'D1', { name: 'First', place: { town: 'Southport', gate: 'B2' } })];
  const whole = line('place', 'OBJECT("town", "Northport", "gate", "C")');
  const gate = line('place.gate', '"D4"');
  const event = ordered([nets], []);
  expect(written((await run(event, [both(gate, whole)], there)).writes)).toEqual([
    'delivery/D1 place.town="Northport" place.gate="C"',
  ]);
  expect(written((await run(event, [both(whole, gate)], there)).writes)).toEqual([
    'delivery/D1 place.town="Northport" place.gate="D4"',
  ]);
});

describe('one record that several branches write to', () => {
  const naming = (formula: string) =>
    rule([jobForEach('lines'), write('record', line('name', formula))], { trigger: trigger([]) });

  test('is written once where all of them give it the same', async () => {
    const { rules, writes } = await run(ordered([nets, rope], []), [naming('COUNTA(lines) & " lines"')]);
    expect(written(writes)).toContain('order/O1 name="2 lines"');
    expect(rules[0]?.steps.filter(({ kind }) => kind === 'problem')).toEqual([]);
    expect(rules[0]?.because).toBe('Writes 3 records.');
  });

  test('keeps the first value where they do not, and says so', async () => {
    const { rules, writes } = await run(ordered([nets, rope], []), [naming('made.name')]);
    expect(written(writes)).toContain('order/O1 name="Nets"');
    expect(rules[0]?.because).toContain(
      '“name” of Order O1 would be given two values by one action: Nets and Rope.',
    );
  });
});
