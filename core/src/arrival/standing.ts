import type { Report } from '../engine/report';
import { differencesOf, messageOf, type ExistingDifference } from '../reconcile/judge';

/** What a record of a file would do. */
export const rowStandings = ['create', 'change', 'nothing', 'cannot'] as const;
export type RowStanding =
  /** It would create a record, whatever else it writes. */
  | 'create'
  /** It would change or remove records, or send a message. */
  | 'change'
  /** Nothing would be other than it is. */
  | 'nothing'
  /** It cannot be read, laid out or computed; nothing of it would be written. */
  | 'cannot';

/** How a record of a file stands before it is applied. */
export interface RowJudged {
  readonly standing: RowStanding;
  /** Why, as a sentence; blank where there is nothing to say. */
  readonly because: string;
  readonly differences: readonly ExistingDifference[];
}

/** Returns what a record of a file would do, of the report of what its rules would. */
export function judgeRow({ rules, writes, messages, problems }: Report): RowJudged {
  const differences = [...writes.flatMap(differencesOf), ...messages.map(messageOf)];
  const failed = rules.find(({ verdict }) => verdict === 'failed');
  const wrong = problems[0] ?? failed?.because;
  if (differences.length === 0 && wrong !== undefined)
    return { standing: 'cannot', because: wrong, differences };
  if (differences.some(({ deed }) => deed === 'create'))
    return { standing: 'create', because: wrong ?? '', differences };
  if (differences.length > 0) return { standing: 'change', because: wrong ?? '', differences };
  const [first] = rules;
  return { standing: 'nothing', because: first?.because ?? 'No rule starts from it.', differences };
}
