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
  'files.send': 'send in a file of rows',
  'jobs.read': 'see long work and how far it has come',
  'jobs.steer': 'begin, pause and cancel long work',
} as const;

/** One thing that a person may do, such as `rules.publish`. */
export type Right = keyof typeof rights;

export const allRights = Object.keys(rights) as readonly Right[];

/** A list of rights with a name. */
export type Role = 'administrator' | 'reader';

/** The roles, each with what it may do. */
export const roles: Readonly<Record<Role, readonly Right[]>> = {
  administrator: allRights,
  reader: [...allRights.filter((right) => right.endsWith('.read')), 'rules.preview'],
};

/** Returns whether a role lets somebody do a thing. */
export function may(role: Role, right: Right): boolean {
  return roles[role].includes(right);
}
