import type { ArrivalRow, ArrivalWay, RowStanding } from '@vast-knot/core';
import type { VerdictTone } from '../parts/Verdict';

/** What a row would do, with the mark and the words for it. */
export const rowWords: Readonly<Record<RowStanding, readonly [VerdictTone, string]>> = {
  create: ['will', 'would create'],
  change: ['will', 'would change'],
  nothing: ['settled', 'would do nothing'],
  cannot: ['wrong', 'cannot be taken'],
};

/** Returns how a row stands, or what became of it. */
export function outcomeOf({
  standing,
  chosen,
  run,
}: Pick<ArrivalRow, 'standing' | 'chosen' | 'run'>): readonly [VerdictTone, string] {
  if (run) {
    if (run.state === 'waiting') return ['waiting', 'under way'];
    return run.state === 'failed' ? ['wrong', 'failed'] : ['settled', 'applied'];
  }
  return chosen ? ['waiting', 'chosen'] : rowWords[standing];
}

/** How a file came, behind the name of who sent it. */
export const wayWords: Readonly<Record<ArrivalWay, string>> = {
  page: '',
  address: ', sent by a program',
  fetched: ', fetched from an address',
  folder: ', found in a folder',
};
