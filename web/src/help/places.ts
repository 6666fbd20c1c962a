import type { Word } from './words';

/** What there is to know of a place: what it is for, what to do first, its words and its keys. */
export interface PlaceHelp {
  readonly title: string;
  readonly about: string;
  readonly first: string;
  readonly words: readonly Word[];
  readonly keys: readonly KeyHelp[];
}

/** Keys, apart by blanks where there are several, and what they do. */
export type KeyHelp = readonly [keys: string, meaning: string];

const everywhere: readonly KeyHelp[] = [
  ['Ctrl+K', 'find anything: a rule, a field, a record, a value, a command'],
  ['?', 'about the place at hand, its words and its keys'],
  ['Tab Shift+Tab', 'on to the next thing, and back'],
  ['Enter', 'press what has the focus'],
  ['Esc', 'close what is open'],
];

const sheet: readonly KeyHelp[] = [
  ['Enter', 'the formula of the next field'],
  ['Alt+↓ Alt+↑', 'next and previous field'],
  ['Esc', 'leave the field at hand'],
  ['Ctrl+Space', 'what can be written here'],
  ['Alt+. Alt+,', 'next and previous sample'],
  ['Ctrl+Z Ctrl+Shift+Z', 'undo and redo, for the whole sheet'],
  ['Ctrl+C Ctrl+V', 'copy the selected lines, or the find or action whose grip has the focus; paste'],
  ['↑ ↓', 'on the grip of a find or an action: moves it'],
];

const bench: readonly KeyHelp[] = [
  ['R', 'replay all samples'],
  ['N P', 'next and previous difference'],
  ['Alt+. Alt+,', 'next and previous sample'],
];

const grid: readonly KeyHelp[] = [
  ['↑ ↓ ← →', 'from cell to cell; with Shift a range'],
  ['Enter', 'type into the cell; then on to the row below'],
  ['Tab', 'keep what is typed, and on to the next cell'],
  ['Delete', 'clear the cells that are chosen'],
  ['Ctrl+Delete', 'remove the rows that are chosen'],
  ['Ctrl+C Ctrl+V', 'copy cells, and paste cells from a spreadsheet'],
  ['Ctrl+Z Ctrl+Y', 'undo and redo'],
  ['Ctrl+S', 'save the rows'],
];

interface Place extends PlaceHelp {
  /** The addresses that it has. */
  readonly at: RegExp;
}

/** All places, those with longer addresses first. */
const places: readonly Place[] = [
  {
    at: /^\/today/,
    title: 'Today',
    about:
      'What needs a person, and how much came in and was written. Each line leads to where it can be dealt with.',
    first: 'Begin with what stands at the top: failures, systems that are away, messages that were given up.',
    words: ['run', 'failure', 'message', 'draft', 'drift'],
    keys: [],
  },
  {
    at: /^\/arrivals\/.+/,
    title: 'A file that came in',
    about:
      'What fills which field, at the left; the file in its own shape, at the right. Under “Rows” stands what each of them would do.',
    first:
      'Choose a field at the left, then press a value at the right. “Look at what each row would do” writes nothing.',
    words: ['arrival', 'layout', 'field', 'rule', 'run', 'sample'],
    keys: [],
  },
  {
    at: /^\/arrivals/,
    title: 'Arrivals',
    about: 'Files that came in, by hand or from programs: kept as they came, looked at, applied.',
    first: 'Drop a file on the page, or choose one.',
    words: ['arrival', 'layout', 'run'],
    keys: [],
  },
  {
    at: /^\/systems\/connect/,
    title: 'Connecting a system',
    about:
      'Says how a business application is reached. What is written at the left is tried at once on the real system at the right.',
    first: 'Give the address of its description (OpenAPI), or paste one of its records.',
    words: ['system', 'connection', 'record type', 'field', 'change event'],
    keys: [['Ctrl+Z Ctrl+Shift+Z', 'undo and redo']],
  },
  {
    at: /^\/systems/,
    title: 'Systems',
    about:
      'The connected applications: how each stands, its record types and fields, and what was said with it last.',
    first: 'Choose a system at the left. “Connect a system” adds one.',
    words: ['system', 'record type', 'field', 'reference', 'pause'],
    keys: [],
  },
  {
    at: /^\/records/,
    title: 'Records',
    about:
      'Records of two systems side by side, as they are now. Press the label of a field to see which rule wrote it.',
    first: 'Choose a record type on each side, then a record. Change a field and press “What would happen?”.',
    words: ['record type', 'field', 'reference', 'run', 'sample'],
    keys: [],
  },
  {
    at: /^\/tables/,
    title: 'Tables',
    about:
      'Lookup tables: which value of one system is which of another, and for which values a row is missing.',
    first: 'Choose a table, or make one; rows can be pasted from a spreadsheet.',
    words: ['lookup table', 'field', 'rule'],
    keys: grid,
  },
  {
    at: /^\/rules\/[^/]+\/versions/,
    title: 'Versions of a rule',
    about: 'Each publication, with who did it, when and why. Any two can be held side by side.',
    first: 'Press two versions to see what changed between them; “Make it the draft” goes back to one.',
    words: ['version', 'draft', 'sample'],
    keys: [],
  },
  {
    at: /^\/rules\/.+/,
    title: 'The rule sheet',
    about:
      'One rule as a page of prose. Each phrase is edited where it stands, and what the rule would write shows for the sample at the right.',
    first:
      'Say when it starts; then press a target field and write its formula, or press a value of the sample.',
    words: [
      'trigger',
      'watched field',
      'guard',
      'find',
      'action',
      'ledger',
      'line',
      'step',
      'finding',
      'sample',
    ],
    keys: sheet,
  },
  {
    at: /^\/rules/,
    title: 'Rules',
    about:
      'All rules: which run, which failed today, which wait to be published. Several can be dealt with at once.',
    first: 'Press a rule to open its sheet, or “New rule”.',
    words: ['rule', 'draft', 'version', 'finding', 'trigger'],
    keys: [['↑ ↓', 'in the list: from rule to rule']],
  },
  {
    at: /^\/bench/,
    title: 'The bench',
    about:
      'Samples are replayed here against rules as edited or as published. Nothing is written to any system.',
    first: 'Choose a sample. Where nothing is expected yet, accept its outcome once it is right.',
    words: ['sample', 'bench', 'outcome', 'expectation', 'draft'],
    keys: bench,
  },
  {
    at: /^\/failures/,
    title: 'Failures',
    about: 'Runs that failed, put together by cause: mend the cause, then try them all again with one press.',
    first: 'Read the first cause; open one of its runs to see which value it was about.',
    words: ['failure', 'run'],
    keys: [],
  },
  {
    at: /^\/messages/,
    title: 'Messages',
    about:
      'What rules sent to addresses outside, and the files that they wrote: what was answered, what waits, what was given up.',
    first: 'Press a message to see it and each delivery; of a file its rows, and take it.',
    words: ['message', 'rule'],
    keys: [],
  },
  {
    at: /^\/reconcile/,
    title: 'Reconciles',
    about:
      'A rule held beside the records that exist already: what it would write for each. Nothing is written before you choose what.',
    first: 'Choose a rule and press “Look at what exists”.',
    words: ['reconcile', 'drift', 'rule', 'undo'],
    keys: [],
  },
  {
    at: /^\/runs/,
    title: 'Runs',
    about:
      'Everything that came in, the latest first: what it changed, which rules it started, what they wrote and why.',
    first: 'Press a run to follow it from the event to the records.',
    words: ['run', 'change event', 'rule', 'outcome', 'undo'],
    keys: [],
  },
  {
    at: /^\/values/,
    title: 'Where is this value?',
    about: 'Every field in every system that holds a value, read as the systems are now.',
    first: 'Type a phone number, a name or a code.',
    words: ['system', 'field'],
    keys: [],
  },
  {
    at: /^\/(addresses|telling)/,
    title: 'Addresses and who is told',
    about: 'Where rules send their messages, and who is told when something needs a person.',
    first: 'Add an address, and try it with a test.',
    words: ['message', 'failure'],
    keys: [],
  },
  {
    at: /^\/me/,
    title: 'You',
    about:
      'How you are called and sign in, in which zone and form times and counts are shown to you, where you are signed in, and the tokens with which programs ask in your name.',
    first: 'Set up codes, so that whoever learns your password cannot sign in.',
    words: ['second factor', 'token'],
    keys: [],
  },
  {
    at: /^\/(people|roles)/,
    title: 'People and roles',
    about: 'Who may sign in here, and what each may. A role is a list of rights, and each person has one.',
    first: 'Invite somebody: they get a link that works once, within two days.',
    words: ['role', 'second factor', 'token'],
    keys: [],
  },
  {
    at: /^\/environment/,
    title: 'This environment',
    about:
      'How this environment is called, so that nobody takes the trial for the real one, and whether publishing wants two.',
    first: 'Give it a name and a colour; they stand in the bar of every page.',
    words: ['environment', 'version'],
    keys: [],
  },
  {
    at: /^\/audit/,
    title: 'What was done',
    about:
      'Who did what, when, from where, and from what to what. Each entry is bound to the one before it, so that what was changed behind our back is found (“vast-knot audit verify”).',
    first: 'Say whom or what you ask about; “changes” shows what was other before.',
    words: ['environment', 'token'],
    keys: [],
  },
  {
    at: /^\/reference/,
    title: 'Reference',
    about:
      'All functions of formulas with examples that are computed here, the parts of a rule, the findings, and the words.',
    first: 'Type what you look for, or write a formula where it says “Try one”.',
    words: ['formula', 'step', 'finding', 'rule'],
    keys: [],
  },
];

const unknown: PlaceHelp = {
  title: 'Vast Knot',
  about: 'Keeps the fields of separate business applications in step.',
  first: 'The bar above leads everywhere.',
  words: ['system', 'rule', 'sample', 'run'],
  keys: [],
};

/** Returns what there is to know of the place at an address, with the keys that work everywhere behind its own. */
export function helpAt(pathname: string): PlaceHelp {
  const place = places.find(({ at }) => at.test(pathname)) ?? unknown;
  return { ...place, keys: [...place.keys, ...everywhere] };
}
