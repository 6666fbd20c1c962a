import { applyFix, type Finding } from './finding';
import { checkRule, checkRules } from './index';
import { compileRule } from '../engine/compileRule';
import type { Surroundings } from '../engine/surroundings';
import { Catalog, type Field, type System } from '../model/system';
import type { Rule } from '../engine/rule';
import { linesIn } from '../engine/actions';
import type { MappingLine } from '../engine/actions/mappingLine';
import { TableIndex } from '../table/tableIndex';
import type { LookupTable } from '../table/table';

const options = (...values: string[]) => values.map((value) => ({ value, label: value }));

const companyFields: readonly Field[] = [
  { name: 'id', label: 'Id', type: 'text', readOnly: true, maxLength: 12 },
  { name: 'name', label: 'Name', type: 'text', required: true, maxLength: 80 },
  { name: 'phone', label: 'Phone', type: 'text', maxLength: 40, sensitivity: 'personal' },
  { name: 'pin', label: 'PIN', type: 'text', maxLength: 4, sensitivity: 'secret' },
  { name: 'status', label: 'Status', type: 'choice', options: options('active', 'dormant') },
  { name: 'credit', label: 'Credit', type: 'decimal' },
  { name: 'crates', label: 'Crates', type: 'integer' },
  { name: 'since', label: 'Since', type: 'date' },
  { name: 'seen', label: 'Seen', type: 'datetime' },
  { name: 'labels', label: 'Labels', type: 'multichoice', options: options('frozen', 'fragile') },
];
const partyFields: readonly Field[] = [
  { name: 'id', label: 'Id', type: 'text', readOnly: true },
  { name: 'number', label: 'Number', type: 'text', maxLength: 12 },
  { name: 'title', label: 'Title', type: 'text', required: true, maxLength: 60 },
  { name: 'zone', label: 'Zone', type: 'text', maxLength: 3 },
  { name: 'state', label: 'State', type: 'choice', options: options('active', 'dormant', 'closed') },
  { name: 'rank', label: 'Rank', type: 'integer', min: 1, max: 9 },
  { name: 'joined', label: 'Joined', type: 'date' },
  { name: 'codes', label: 'Codes', type: 'multichoice', options: options('FRZ', 'FRG') },
  { name: 'agent', label: 'Agent', type: 'reference', refersTo: ['party'] },
  { name: 'ownerPhone', label: 'Owner phone', type: 'text', maxLength: 40, sensitivity: 'personal' },
  { name: 'rev', label: 'Revision', type: 'integer', readOnly: true, keptBySystem: true },
];
const system = (key: string, tag: string, name: string, type: string, fields: readonly Field[]): System => ({
  key,
  tag,
  name,
  hue: 0,
  recordTypes: [
    {
      name: type,
      label: type,
      plural: `${type}s`,
      idField: 'id',
      nameField: fields === partyFields ? 'title' : 'name',
      fields,
    },
  ],
});
const labels: LookupTable = {
  name: 'Labels to codes',
  columns: [
    { name: 'label', label: 'Label', type: 'text', key: true },
    { name: 'code', label: 'Code', type: 'text', key: false },
  ],
  rows: [['frozen', 'FRZ']],
  matching: 'exact',
  onMiss: 'blank',
};
const surroundings: Surroundings = {
  catalog: new Catalog([
    system('book', 'BK', 'Book', 'company', companyFields),
    system('desk', 'DK', 'Desk', 'party', partyFields),
  ]),
  tables: new Map([[labels.name, new TableIndex(labels)]]),
};

const line = (
  field: string,
  formula: string,
  policy: MappingLine['policy'] = 'value present',
): MappingLine => ({
  field,
  formula,
  policy,
});

function rule(lines: readonly MappingLine[], change: Partial<Rule> = {}): Rule {
  return {
    id: 'r1',
    version: 0,
    name: 'Company to party',
    note: '',
    trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: [] },
    guard: '',
    finds: [
      {
        alias: 'party',
        system: 'desk',
        recordType: 'party',
        match: [{ field: 'number', is: 'equal', formula: 'id' }],
        none: 'stop',
        several: 'fail',
      },
    ],
    actions: [{ kind: 'write', target: 'party', lines }],
    ...change,
  };
}

const find = (subject: Rule, others: readonly Rule[] = []): readonly Finding[] =>
  checkRule(
    subject,
    surroundings,
    others.flatMap((other) => {
      const result = compileRule(other, surroundings);
      return result.ok ? [result.compiled] : [];
    }),
  );

/** The findings of one kind, as severity and sentence. */
const said = (subject: Rule, kind: string, others: readonly Rule[] = []) =>
  find(subject, others)
    .filter((finding) => finding.kind === kind)
    .map(({ severity, message }) => `${severity}: ${message}`);

/** Presses the fix of the first finding of a kind and gives the rule after it. */
function mended(subject: Rule, kind: string): Rule {
  const fix = find(subject).find((finding) => finding.kind === kind)?.fix;
  if (!fix) throw new Error(`no fix for ${kind}`);
  return { ...applyFix(subject, fix), id: subject.id, version: 0 };
}

test('a rule without faults has no finding', () => {
  expect(find(rule([line('title', 'LEFT(name, 60)')]))).toEqual([]);
});

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

describe('text longer than its field', () => {
  // A target's length must be at least its source's: common practice, no source.
  test('is found by the lengths of both ends', () => {
    expect(said(rule([line('title', 'name')]), 'too long')).toEqual([
      'warning: “Title” holds 60 characters, and the formula can give 80; a longer value fails.',
    ]);
  });

  test.each([
    ['title', 'LEFT(name, 60)'],
    ['zone', 'UPPER(LEFT(name, 3))'],
    ['zone', 'IF(crates > 1, "A1", "B22")'],
    ['zone', 'TABLE("Labels to codes", status, "code")'],
    ['number', 'LEFT(name, 6) & LEFT(phone, 6)'],
  ])('is not feared for %s from %s', (field, formula) => {
    expect(said(rule([line(field, formula)]), 'too long')).toEqual([]);
  });

  test('a UUID is 36 characters long', () => {
    // Common practice, no source; RFC 9562, section 4, has the same count.
    expect(said(rule([line('number', 'UUID5(id, "dns")')]), 'too long')).toEqual([
      'warning: “Number” holds 12 characters, and the formula can give 36; a longer value fails.',
    ]);
  });

  test('is cut by the fix', () => {
    const after = mended(rule([line('title', 'name')]), 'too long');
    expect(linesIn(after.actions[0])[0]?.formula).toBe('LEFT(name, 60)');
    expect(find(after)).toEqual([]);
  });
});

describe('numbers out of range', () => {
  test('may be, must be, and are kept within by the fix', () => {
    expect(said(rule([line('rank', 'crates')]), 'out of range')).toEqual([
      'warning: “Rank” takes 1 to 9, and the formula can give a number beyond.',
    ]);
    expect(said(rule([line('rank', '12')]), 'out of range')).toEqual([
      'error: “Rank” takes 9 at most, and the formula always gives a number beyond.',
    ]);
    expect(find(mended(rule([line('rank', 'crates')]), 'out of range'))).toEqual([]);
  });
});

describe('choices', () => {
  test('that the target does not know are named, with the nearest that it knows', () => {
    const subject = rule([line('state', 'IF(crates > 1, "activ", "closed")')]);
    expect(said(subject, 'unknown choice')).toEqual([
      'warning: “State” has no option “activ”, which the formula can give.',
    ]);
    expect(linesIn(mended(subject, 'unknown choice').actions[0])[0]?.formula).toBe(
      'IF(crates > 1, "active", "closed")',
    );
  });

  test('pass when the options of the source are among those of the target', () => {
    expect(find(rule([line('state', 'status')]))).toEqual([]);
  });

  test('are looked up through tables: options without a row are named', () => {
    const subject = rule([line('codes', 'EACH(labels, TABLE("Labels to codes", item, "code"))')]);
    expect(said(subject, 'unknown choice')).toEqual([]);
    expect(said(subject, 'option without row')).toEqual([
      'warning: The table “Labels to codes” has no row for “fragile”; it gives blank then.',
    ]);
    expect(find(subject).find(({ kind }) => kind === 'option without row')?.table).toBe('Labels to codes');
  });

  test('any text for a choice is warned of', () => {
    expect(said(rule([line('state', 'name')]), 'unknown choice')).toHaveLength(1);
  });
});

describe('targets', () => {
  test('that are read-only are refused, and the fix removes the line', () => {
    const subject = rule([line('id', 'id'), line('title', '"x"')]);
    expect(said(subject, 'read-only target')).toEqual(['error: “Id” is read-only in its system.']);
    expect(linesIn(mended(subject, 'read-only target').actions[0]).map(({ field }) => field)).toEqual([
      'title',
    ]);
  });

  test('with two lines are refused', () => {
    const write = { kind: 'write', target: 'party', lines: [line('title', '"x"')] } as const;
    const subject = rule([], { actions: [write, write] });
    expect(said(subject, 'two lines')).toEqual(['error: “Title” has a line already, in action 1.']);
    expect(said(mended(subject, 'two lines'), 'two lines')).toEqual([]);
  });

  test('that are required and may be left blank are warned of', () => {
    const subject = rule([line('title', 'LEFT(phone, 60)', 'always')]);
    expect(said(subject, 'clears required')).toEqual([
      'warning: “Title” is required, and the formula can give blank; the line fails then.',
    ]);
    expect(said(mended(subject, 'clears required'), 'clears required')).toEqual([]);
  });

  test('that another rule writes on the same change are told, with its name', () => {
    const subject = rule([line('title', '"x"')]);
    const other = rule([line('title', '"y"')], { id: 'r2', name: 'The other' });
    expect(said(subject, 'rival rule', [other])).toEqual([
      'warning: “Title” is also written by “The other” on the same change; the last rule wins.',
    ]);
    const elsewhere = { ...other, trigger: { ...other.trigger, kinds: ['deleted'] as const } };
    expect(said(subject, 'rival rule', [elsewhere])).toEqual([]);
  });
});

describe('watched fields', () => {
  const watching = (watched: readonly string[], lines: readonly MappingLine[]) =>
    rule(lines, { trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched } });

  test('a field that a line uses and the trigger does not watch is found, and watched by the fix', () => {
    const subject = watching(['status'], [line('title', 'LEFT(name, 60)'), line('state', 'status')]);
    expect(said(subject, 'unwatched field')).toEqual([
      'warning: “Name” is used here and not watched: a change of it alone is not written to “Title”.',
    ]);
    const after = mended(subject, 'unwatched field');
    expect(after.trigger.watched).toEqual(['status', 'name']);
    expect(find(after)).toEqual([]);
  });

  test('what creates a record takes the values of that moment, watched or not', () => {
    const creating = rule([], {
      trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['status'] },
      guard: 'status = "active"',
      finds: [],
      actions: [
        {
          kind: 'create',
          alias: 'made',
          system: 'desk',
          recordType: 'party',
          lines: [line('title', 'LEFT(name, 60)')],
        },
      ],
    });
    expect(said(creating, 'unwatched field')).toEqual([]);
  });

  test('a field that is watched and used nowhere is told', () => {
    const subject = watching(['status', 'credit'], [line('state', 'status')]);
    expect(said(subject, 'watched and unused')).toEqual([
      'note: “Credit” is watched and used nowhere: its change starts the rule for nothing.',
    ]);
    expect(mended(subject, 'watched and unused').trigger.watched).toEqual(['status']);
  });

  test('watching nothing in particular watches everything', () => {
    expect(said(watching([], [line('state', 'status')]), 'unwatched field')).toEqual([]);
  });
});

describe('a guard that can never hold', () => {
  test.each([
    ['FALSE', 'it says FALSE'],
    ['status = "activ"', '“status” has no option “activ”'],
    [
      'AND(status = "active", status = "dormant")',
      '“status” cannot have all of the values asked for at once',
    ],
    ['AND(ISBLANK(name), name = "Skerry")', '“name” cannot be blank and have a value'],
    ['AND(crates > 5, crates < 3)', '“crates” cannot be more than 5 and less than 3'],
    [
      'AND(status <> "active", ONEOF(status, "active"))',
      '“status” cannot have all of the values asked for at once',
    ],
  ])('%s', (guard, reason) => {
    expect(said(rule([line('title', '"x"')], { guard }), 'guard never holds')).toEqual([
      `error: The guard can never hold: ${reason}.`,
    ]);
  });

  test.each([
    'status = "active"',
    'OR(FALSE, status = "active")',
    'AND(crates > 3, crates < 5)',
    'AND(crates >= 5, crates <= 5)',
    'AND(status <> "active", NOT(ISBLANK(name)))',
    'ISBLANK(status)',
    'status = ""',
  ])('%s may hold', (guard) => {
    expect(said(rule([line('title', '"x"')], { guard }), 'guard never holds')).toEqual([]);
  });
});

describe('references', () => {
  test('that get a name instead of an id are found, and looked up by the fix', () => {
    const subject = rule([line('agent', 'name')]);
    expect(said(subject, 'unresolved reference')).toEqual([
      'warning: “Agent” wants the id of a party in Desk, and the formula gives “Name”.',
    ]);
    const after = mended(subject, 'unresolved reference');
    expect(linesIn(after.actions[0])[0]?.reference).toEqual({
      recordType: 'party',
      field: 'title',
      none: 'fail',
      several: 'fail',
    });
    expect(find(after)).toEqual([]);
  });

  test('that get the id of a found record are right', () => {
    expect(find(rule([line('agent', 'party.id')]))).toEqual([]);
    expect(find(rule([line('agent', 'party.agent')]))).toEqual([]);
  });
});

describe('values that are not to leave', () => {
  test('secret ones are refused, personal ones warned of', () => {
    expect(said(rule([line('zone', 'LEFT(pin, 3)')]), 'sensitive outside')).toEqual([
      'error: “PIN” is secret and would leave for Desk.',
    ]);
    expect(said(rule([line('title', 'LEFT(phone, 60)')]), 'sensitive outside')).toEqual([
      'warning: “Phone” is personal; “Title” in Desk is not marked as holding personal values.',
    ]);
    expect(said(rule([line('ownerPhone', 'phone')]), 'sensitive outside')).toEqual([]);
  });
});

describe('names', () => {
  test('a misspelt field is put right by the fix', () => {
    const subject = rule([line('title', 'LEFT(nam, 60)')]);
    expect(said(subject, 'mistake')).toEqual([
      'error: The triggering record has no field “nam”. Did you mean “name”?',
    ]);
    expect(find(mended(subject, 'mistake'))).toEqual([]);
  });

  test('a misspelt function is put right by the fix, in brackets too', () => {
    const after = mended(rule([line('title', '(UPER(LEFT(name, 60)))')]), 'mistake');
    expect(linesIn(after.actions[0])[0]?.formula).toBe('(UPPER(LEFT(name, 60)))');
  });

  test('a mistake in one line does not hide the findings of the others', () => {
    const kinds = find(rule([line('title', 'LEFT(nam, 60)'), line('number', 'name')])).map(
      ({ kind }) => kind,
    );
    expect(kinds).toEqual(['mistake', 'too long']);
  });
});

test('a rule that writes nothing, and a find that nothing uses, are told', () => {
  expect(said(rule([]), 'writes nothing')).toHaveLength(1);
  const [found] = rule([]).finds;
  if (!found) throw new Error('no find');
  const subject = rule([line('title', '"x"')], {
    finds: [found, { ...found, alias: 'spare', none: 'go on' }],
  });
  expect(said(subject, 'unused find')).toEqual(['note: “spare” is found and used nowhere.']);
  expect(mended(subject, 'unused find').finds).toHaveLength(1);
});

test('a whole set is checked, each rule against the others', () => {
  const a = rule([line('title', '"x"')]);
  const b = rule([line('title', '"y"')], { id: 'r2', name: 'Second' });
  const results = checkRules([a, b], surroundings).map(({ findings }) => findings.map(({ kind }) => kind));
  expect(results).toEqual([['rival rule'], ['rival rule']]);
});
