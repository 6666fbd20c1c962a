import {
  bundleFormat,
  describeOutcome,
  ensemble,
  replaySample,
  rulesIn,
  surroundingsIn,
  type Action,
  type Bundle,
  type ChangeEvent,
  type Field,
  type RuleBody,
  type StoredRecord,
  type System,
  type WholeBundle,
} from '@vast-knot/core';

const text = (name: string, label: string, more: Partial<Field> = {}): Field => ({
  name,
  label,
  type: 'text',
  ...more,
});
const of = (name: string, label: string, fields: readonly Field[]) => ({
  name,
  label,
  plural: `${label}s`,
  idField: 'id',
  nameField: 'name',
  fields: [text('id', 'Id', { readOnly: true }), ...fields],
});
const book: System = {
  key: 'book',
  tag: 'BK',
  name: 'Book',
  hue: 220,
  recordTypes: [
    of('company', 'Company', [text('name', 'Name'), text('phone', 'Phone'), text('code', 'Code')]),
  ],
};
const desk: System = {
  key: 'desk',
  tag: 'DK',
  name: 'Desk',
  hue: 130,
  recordTypes: [
    of('party', 'Party', [text('name', 'Name'), text('number', 'Number'), text('phone', 'Phone')]),
  ],
};
const ref = (system: string, recordType: string, id: string) => ({ system, recordType, id });
const event: ChangeEvent = {
  id: 'e1',
  source: '/book',
  kind: 'updated',
  ref: ref('book', 'company', 'C1'),
  time: '2026-03-09T09:00:00Z',
  record: { id: 'C1', name: 'Skerry Line', phone: '01632 960 120', code: 'AB-12' },
  before: { id: 'C1', name: 'Skerry Line', phone: '01632 960 100', code: 'AB-12' },
  changed: ['phone'],
};
const records: readonly StoredRecord[] = [
  { ref: event.ref, record: event.record },
  { ref: ref('desk', 'party', 'P7'), record: { id: 'P7', name: 'Skerry', number: 'C1', phone: null } },
];

const id = (at: number) => `0192f3a0-0001-7000-8000-00000000000${at}`;
const shared: RuleBody = {
  name: 'Phone of a party',
  note: '',
  trigger: { system: 'desk', recordType: 'party', kinds: ['requested'], watched: [] },
  guard: '',
  finds: [],
  actions: [
    {
      kind: 'write',
      target: 'record',
      lines: [{ field: 'phone', formula: '"not known"', policy: 'target blank' }],
    },
  ],
};

/** One action of each kind, with what it is for. */
const examples: readonly { readonly says: string; readonly action: Action }[] = [
  {
    says: 'Writes fields of a record that is there: the triggering one (`record`) or one found.',
    action: {
      kind: 'write',
      target: 'party',
      lines: [{ field: 'phone', formula: 'PHONE(phone, "GB")', policy: 'always' }],
    },
  },
  {
    says: 'Creates a record; later actions know it by its alias, and its id too.',
    action: {
      kind: 'create',
      alias: 'made',
      system: 'desk',
      recordType: 'party',
      lines: [
        { field: 'name', formula: 'name', policy: 'always' },
        { field: 'number', formula: 'id', policy: 'always' },
      ],
    },
  },
  {
    says: 'Copies a record of the same type: what can be copied, then the lines over it.',
    action: {
      kind: 'copy',
      of: 'party',
      system: 'desk',
      recordType: 'party',
      alias: 'copied',
      lines: [{ field: 'name', formula: 'party.name & " (copy)"', policy: 'always' }],
    },
  },
  { says: 'Removes a record.', action: { kind: 'remove', target: 'party' } },
  {
    says: 'Sends a message to an endpoint, signed, once the writes are done.',
    action: {
      kind: 'send',
      endpoint: 'notices',
      type: 'example.company.rang',
      parts: [
        { name: 'company.name', formula: 'name' },
        { name: 'party', formula: 'party.id' },
      ],
    },
  },
  {
    says: 'Writes a file with a row for each record reached, into a folder, to an address, or for people to take.',
    action: {
      kind: 'file',
      name: '"list of " & name',
      format: 'csv',
      to: { kind: 'folder', folder: 'handover', replace: true },
      columns: [
        { name: 'Party', formula: 'party.id' },
        { name: 'Company', formula: 'name' },
      ],
    },
  },
  {
    says: 'Puts fields of a record in order.',
    action: { kind: 'tidy', target: 'record', steps: [{ do: 'clean', field: 'name', how: 'upper case' }] },
  },
  {
    says: 'Does what another rule does, for the records reached.',
    action: { kind: 'apply', target: 'party', rule: id(2) },
  },
];

const ruleWith = (action: Action): RuleBody => ({
  name: 'Example',
  note: '',
  trigger: { system: 'book', recordType: 'company', kinds: ['updated'], watched: ['phone'] },
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
  actions: [action],
});

const bundleWith = (action: Action): WholeBundle => ({
  addresses: [],
  systems: [{ system: book }, { system: desk }],
  tables: [],
  rules: [
    { id: id(1), published: true, rule: ruleWith(action) },
    ...(action.kind === 'apply' ? [{ id: id(2), published: false, rule: shared }] : []),
  ],
  samples: [],
});

const json = (value: unknown) => `\`\`\`json\n${JSON.stringify(value, null, 2)}\n\`\`\``;

/** The page about bundles, events, records and outcomes; what its examples give is computed when the page is made. */
export async function bundleReference(): Promise<string> {
  const shown = await Promise.all(examples.map(({ says, action }) => example(says, action)));
  const [first] = examples;
  const whole: Bundle | undefined = first && { vastKnot: 2, ...bundleWith(first.action) };
  return `# Bundles, events and outcomes

Made from the code by \`npm run docs\`; what the examples give is computed then. A bundle is a JSON file with systems, tables, rules
and samples, or some of them; a folder of such files is read as one. Members that are not listed are refused with their place.
The JSON Schemas (2020-12) are in [docs/schemas](../schemas): \`bundle\`, \`event\`, \`records\`, \`expected\`, \`outcome\`. Members of
rules are those of the [rule reference](rule.md). A sample's \`expected\` says of every field what it must be: \`equal\` to a
value, \`near\` a number, \`matching\` a pattern, \`blank\`, or \`any\` value; what is not listed must not change.

Numbers keep their digits, whatever their length: \`12345678901234567890\` in a file, in an event or in the answer of a system is
written with the same digits. Our own API and database carry such a number as \`{"$number": "12345678901234567890"}\`, because most
readers of JSON would round it; files may say it either way.

\`\`\`
npx vast-knot replay demo                                            replays the samples: 0 all hold, 1 some differ, 2 wrong input
npx vast-knot replay demo --sample "Inspection turns poor" --junit report.xml --json report.json
npx vast-knot check demo                                             prints the findings of the rules
npx vast-knot run bundle.json --event event.json --records records.json
npx vast-knot pull work                                              writes what a server has into a folder
npx vast-knot push work --plan                                       shows what it would change there; without --plan it is done
\`\`\`

The format is version ${bundleFormat} (\`vastKnot\`); files of older ones are read, and told what is other in them. A bundle holds \`systems\` (with how each is
reached, but for its address), \`addresses\` (outside addresses that rules send to, by key and name), \`tables\`, \`rules\` (each with its \`id\`,
\`published\`, and its \`folder\` where it is in one) and \`samples\`. Secrets are in none. What is given out is canonical: members in the order of their names
(as RFC 8785, 3.2.3), rows of tables in the order of their keys, two spaces to a level.

All examples below are of this event over these records.

event.json

${json(event)}

records.json

${json(records)}

bundle.json of the first example; the others differ in the action only

${json(whole)}

${shown.join('\n\n')}
`;
}

async function example(says: string, action: Action): Promise<string> {
  const bundle = bundleWith(action);
  const surroundings = surroundingsIn(bundle);
  const [rule, ...others] = rulesIn(bundle);
  const made = ensemble(rule ? [rule] : [], surroundings, others);
  if (made.mistakes.length > 0) throw new Error(`${action.kind}: ${JSON.stringify(made.mistakes)}`);
  const sample = { id: 'example', name: action.kind, note: '', event, records };
  const { report } = await replaySample(sample, made, surroundings);
  const { trace: _trace, ...outcome } = describeOutcome(report);
  const applied = others.length > 0 ? `\n\nThe other rule:\n\n${json({ ...others[0] })}` : '';
  return `## ${action.kind}\n\n${says}\n\n${json(action)}${applied}\n\ngives (without its \`trace\`)\n\n${json(outcome)}`;
}
