import type { ColumnRow } from './columnOf';

export const verdicts = ['error', 'changes', 'same', 'kept', 'not reached'] as const;
export type ColumnVerdict = (typeof verdicts)[number];

export const verdictWords: Readonly<Record<ColumnVerdict, string>> = {
  error: 'fail',
  changes: 'would change',
  same: 'same already',
  kept: 'kept',
  'not reached': 'nothing found',
};

export function verdictOf({ report }: ColumnRow): ColumnVerdict {
  return report?.verdict ?? 'not reached';
}
