/** Everything that a person may be let do, each in the words of a screen. Routes and screens both ask by these names. */
export const rights = {
  'systems.read': 'see systems, record types and fields',
  'systems.connect': 'have a system connected anew and asked what changed meanwhile',
  'systems.change': 'connect systems, change how they are reached, and take them out',
  'records.read': 'see records and their timelines, and search for values',
  'records.change': 'change and remove records',
  'tables.read': 'see lookup tables, their history and coverage, and preview a file',
  'tables.change': 'make, change and remove lookup tables',
  'rules.read': 'see rules and their findings',
  'rules.edit': 'make rules and edit their drafts',
  'rules.publish': 'publish and withdraw rules, and put them in order',
  'rules.preview': 'see what a requested rule would do',
  'rules.request': 'run a rule on a record',
  'samples.read': 'see samples and replay them',
  'samples.change': 'take, change and remove samples',
  'runs.read': 'see runs, what they wrote and what waits',
  'runs.retry': 'try a run again, and run its payload again',
  'runs.stop': 'stop a run',
  'runs.undo': 'take back what a run wrote',
  'runs.pause': 'pause a rule or everything, and let it go on',
  'reconciles.read': 'see what rules would write to the records that exist',
  'reconciles.look': 'have a rule looked at beside the records that exist',
  'reconciles.write': 'have a rule write to the records that exist',
  'messages.read': 'see messages and their deliveries',
  'messages.resend': 'send a message again',
  'endpoints.read': 'see the addresses that messages are sent to',
  'endpoints.change': 'change the addresses that messages are sent to',
  'telling.read': 'see who is told when something needs a person',
  'telling.change': 'say who is told when something needs a person',
  'files.read': 'see files that came in, and what their rows would do',
  'files.send': 'send in a file of rows, lay it out and look at it',
  'files.apply': 'have the rows of a file applied',
  'jobs.read': 'see long work and how far it has come',
  'jobs.steer': 'begin, pause and cancel long work',
  'people.read': 'see people, their roles and invitations',
  'people.change': 'invite people, give them roles, and stop them from signing in',
  'environment.change': 'say how this environment is called and what it asks of people',
  'audit.read': 'see who did what',
} as const;

/** One thing that a person may do, such as `rules.publish`. */
export type Right = keyof typeof rights;

export const allRights = Object.keys(rights) as readonly Right[];

/** A list of rights with a name, of which each person has one. */
export interface Role {
  /** What it is known by: `publisher`. */
  readonly key: string;
  readonly name: string;
  /** For whom it is, in a sentence. */
  readonly says: string;
  readonly rights: readonly Right[];
}

/** What a role lets see that is about people rather than their work. */
const ofPeople: readonly Right[] = ['people.read', 'audit.read'];

const seeing: readonly Right[] = [
  ...allRights.filter((right) => right.endsWith('.read') && !ofPeople.includes(right)),
  'rules.preview',
];
const editing: readonly Right[] = [
  ...seeing,
  'rules.edit',
  'tables.change',
  'samples.change',
  'reconciles.look',
];
const publishing: readonly Right[] = [
  ...editing,
  'rules.publish',
  'rules.request',
  'records.change',
  'runs.retry',
  'runs.stop',
  'runs.undo',
  'runs.pause',
  'reconciles.write',
  'messages.resend',
  'systems.connect',
  'files.send',
  'files.apply',
  'jobs.steer',
];

/** The roles that every environment has; others can be made beside them. The one who may least stands first. */
export const builtInRoles: readonly Role[] = [
  {
    key: 'viewer',
    name: 'Viewer',
    says: 'Sees everything about the work and changes nothing.',
    rights: seeing,
  },
  { key: 'editor', name: 'Editor', says: 'Writes drafts of rules, tables and samples.', rights: editing },
  {
    key: 'publisher',
    name: 'Publisher',
    says: 'Decides what runs: publishes, stops, reconciles, takes back and sends again.',
    rights: publishing,
  },
  {
    key: 'administrator',
    name: 'Administrator',
    says: 'May do everything: systems, secrets and people too.',
    rights: allRights,
  },
];
