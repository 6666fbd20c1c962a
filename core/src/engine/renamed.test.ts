import type { RuleBody } from './rule';
import { calledAfter, freeName, nameOfCreated, nameOfFound, nameProblem, renamed } from './renamed';

const body: RuleBody = {
  name: 'Company to party',
  note: 'party stays here',
  trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['party'] },
  guard: 'ISBLANK(party.zone)',
  finds: [
    {
      alias: 'party',
      system: 'desk',
      recordType: 'party',
      match: [{ field: 'number', is: 'equal', formula: 'id' }],
      where: 'AND(party.status = "party",  party.open)',
      none: 'stop',
      several: 'fail',
    },
    {
      alias: 'agent',
      system: 'desk',
      recordType: 'party',
      match: [{ field: 'id', is: 'equal', formula: 'party.agent' }],
      none: 'go on',
      several: 'fail',
    },
  ],
  actions: [
    {
      kind: 'write',
      target: 'party',
      only: 'record.party <> party.id',
      lines: [
        {
          field: 'title',
          formula: 'TRIM(  party.title ) & "party" & partyName & agent.party',
          policy: 'always',
        },
        { field: 'party', formula: 'UPPER(party.', policy: 'always' },
      ],
    },
    { kind: 'copy', of: 'party', alias: 'newParty', system: 'desk', recordType: 'party', lines: [] },
    {
      kind: 'send',
      endpoint: 'post',
      type: 'told',
      parts: [{ name: 'party', formula: 'newParty.id & party.id' }],
    },
  ],
};

test('a record is renamed wherever it is named, and texts, fields and other records of that name stay', () => {
  const after = renamed(body, 'party', 'customer');
  expect(after.guard).toBe('ISBLANK(customer.zone)');
  expect(after.finds.map(({ alias, recordType }) => [alias, recordType])).toEqual([
    ['customer', 'party'],
    ['agent', 'party'],
  ]);
  expect(after.finds[0]?.where).toBe('AND(customer.status = "party",  customer.open)');
  expect(after.finds[1]?.match[0]?.formula).toBe('customer.agent');
  expect(after.actions).toEqual([
    {
      kind: 'write',
      target: 'customer',
      only: 'record.party <> customer.id',
      lines: [
        // What does not parse is left as somebody typed it.
        {
          field: 'title',
          formula: 'TRIM(  customer.title ) & "party" & partyName & agent.party',
          policy: 'always',
        },
        { field: 'party', formula: 'UPPER(party.', policy: 'always' },
      ],
    },
    { kind: 'copy', of: 'customer', alias: 'newParty', system: 'desk', recordType: 'party', lines: [] },
    {
      kind: 'send',
      endpoint: 'post',
      type: 'told',
      parts: [{ name: 'party', formula: 'newParty.id & customer.id' }],
    },
  ]);
  expect(after.note).toBe('party stays here');
  expect(after.trigger.watched).toEqual(['party']);
});

test('renaming there and back gives the rule as it was', () => {
  expect(renamed(renamed(body, 'party', 'customer'), 'customer', 'party')).toEqual(body);
  expect(renamed(body, 'nobody', 'somebody')).toEqual(body);
});

test('a name must be free, and none that formulas have for something else', () => {
  expect(nameProblem(body, 'party', 'party')).toBeUndefined();
  expect(nameProblem(body, 'party', 'customer')).toBeUndefined();
  expect(nameProblem(body, 'party', 'agent')).toBe('Another record of this rule is called “agent”.');
  expect(nameProblem(body, 'party', 'newParty')).toBe('Another record of this rule is called “newParty”.');
  for (const wrong of ['', 'Party', '1st', 'a b', 'record', 'item', 'é'])
    expect(nameProblem(body, 'party', wrong)).toMatch(/^A name begins with a small letter/);
});

test('a record is called after its new type only where it was called after the old one', () => {
  const named = (name: string, before: string, after: string) =>
    calledAfter(renamed(body, 'party', name), name, before, after).finds[0]?.alias;
  expect(named('party', 'party', 'booking')).toBe('booking');
  expect(named('party2', 'party', 'booking')).toBe('booking');
  expect(named('party', 'party', 'agent')).toBe('agent2');
  expect(named('customer', 'party', 'booking')).toBe('customer');
  expect(named('partyOfOld', 'party', 'booking')).toBe('partyOfOld');
});

test('first names are such that formulas can say them', () => {
  expect([nameOfFound('Vessel'), nameOfFound('vessel call'), nameOfFound('2nd')]).toEqual([
    'vessel',
    'vesselcall',
    'found',
  ]);
  expect(nameOfCreated('task')).toBe('newTask');
  expect(freeName(body, 'party')).toBe('party2');
});
