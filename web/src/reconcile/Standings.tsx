import type { ReconcileFilter, ReconcileView } from '@vast-knot/core';
import { StandingBars } from '../parts/StandingBars';
import type { AddressChanges } from '../parts/useAddress';
import type { VerdictTone } from '../parts/Verdict';
import { standingOrder, standingWords } from './standingWords';

interface StandingsProps {
  readonly view: ReconcileView;
  readonly filter: ReconcileFilter;
  readonly put: (changes: AddressChanges) => void;
}

const outcomes: readonly (readonly [
  NonNullable<ReconcileFilter['outcome']>,
  'written' | 'failed' | 'skipped' | 'underWay',
  VerdictTone,
  string,
])[] = [
  ['written', 'written', 'settled', 'written'],
  ['under way', 'underWay', 'waiting', 'under way'],
  ['skipped', 'skipped', 'quiet', 'left out'],
  ['failed', 'failed', 'wrong', 'failed'],
];

/** How many records stand how, and what became of those that were chosen: as long bars, each of which narrows the list. */
export function Standings({ view, filter, put }: StandingsProps) {
  const all = Math.max(1, ...Object.values(view.counts));
  const standing = standingOrder.map((key) => {
    const [tone, word] = standingWords[key];
    const number = view.counts[key];
    const pressed = filter.standing === key;
    const press = () => put({ standing: pressed ? '' : key, outcome: '' });
    return { key, tone, word, number, share: number / all, pressed, press };
  });
  const outcome = outcomes
    .filter(([key, of]) => view.chosen > 0 && (view[of] > 0 || key === 'written'))
    .map(([key, of, tone, word]) => {
      const pressed = filter.outcome === key;
      const press = () => put({ outcome: pressed ? '' : key, standing: '' });
      return { key, tone, word, number: view[of], share: view[of] / view.chosen, pressed, press };
    });
  return <StandingBars label="How the records stand" bars={[...standing, ...outcome]} />;
}
