/** The words of the screens, and what each means, as a person new to the work needs it. */
export const words = {
  system: 'A connected business application.',
  'record type': 'A kind of record that a system has, such as a company or a booking.',
  field: 'A part of a record. People know it by its label, formulas by its code.',
  reference: 'A field that points to another record.',
  'change event': 'What a system says happened to a record: it was created, updated or deleted.',
  rule: 'Says what starts it, under which condition it goes on, which other records it reaches, and what it writes.',
  draft: 'A rule as it is edited. It runs only once it is published.',
  version: 'A rule as it was published; versions are kept and can be gone back to.',
  trigger: 'What starts a rule: a record type, the kinds of change, and the fields that are watched.',
  'watched field': 'Only a change of one of these starts the rule.',
  guard:
    'The condition under which a rule that was started goes on. It sees the record before and after the change.',
  find: 'Reaches another record by conditions, under a name that formulas use.',
  action:
    'What a rule does: it writes to a record, creates, copies or removes one, sends a message, or puts fields in order.',
  ledger:
    'The list of the target fields of an action: how each value is made, what it would be, and what is there now.',
  line: 'One target field, the formula that gives its value, and when it is written.',
  formula: 'Gives one value, in the manner of a spreadsheet.',
  step: 'One thing that happens to a value on its way: upper, then cut after four, then a text behind it.',
  finding: 'Something that is said about a rule before it runs. An error keeps it from being published.',
  'lookup table': 'Rows with keys that turn values of one system into those of another.',
  sample: 'A kept change event with the records it met, and what is expected to come of it.',
  bench: 'Where samples are replayed. A replay writes to no system.',
  outcome: 'The records after a run or a replay, field by field, before and after.',
  expectation: 'What a field is expected to hold after a replay: a value, a pattern, blank, or anything.',
  run: 'What one event did: the rules that were tried, what each read and wrote, and the result.',
  arrival: 'A file that came in: its rows, and what each would do, before anything is written.',
  layout: 'Says what in a file fills which field of the records that its rows become.',
  message: 'What a rule sends to an address outside.',
  failure: 'A run that did not come to its end for a reason. Failures of like cause stand together.',
  reconcile:
    'A rule held beside the records that exist: what it would write for each, and writing what is chosen.',
  drift: 'What a reconcile that only looks finds different.',
  undo: 'A run that puts back what another one wrote, where it still stands.',
  connection:
    'How a system is reached: its address, signing in, reading, writing, and how its changes are learnt.',
  role: 'A list of what somebody may do. Each person has one.',
  token: 'With what a program asks in the name of a person: some of their rights, until an end.',
  'second factor': 'A code of a device of yours, beside the password.',
  environment: 'One installation with its own systems and people, such as the trial or the real one.',
  pause: 'Nothing is written while it lasts, and nothing is lost: what comes in waits.',
} as const;

export type Word = keyof typeof words;
