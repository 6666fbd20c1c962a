import type { ReconcileFilter, ReconcileView } from '@vast-knot/core';
import { StandingBars } from '../parts/StandingBars';
import type { AddressChanges } from '../parts/useAddress';
import { standingOrder, standingWords } from './standingWords';

interface StandingsProps {
  readonly view: ReconcileView;
  readonly filter: ReconcileFilter;
  readonly put: (changes: AddressChanges) => void;
}

/** How many records stand how, and what became of those that were chosen. */
export function Standings({ view, filter, put }: StandingsProps) {
  return (
    <StandingBars
      label="How the records stand"
      standings={standingOrder.map((key) => {
        const [tone, word] = standingWords[key];
        return { key, tone, word, number: view.counts[key] };
      })}
      outcomes={[
        { key: 'written', tone: 'settled', word: 'written', number: view.written },
        { key: 'under way', tone: 'waiting', word: 'under way', number: view.underWay },
        { key: 'skipped', tone: 'quiet', word: 'left out', number: view.skipped },
        { key: 'failed', tone: 'wrong', word: 'failed', number: view.failed },
      ]}
      chosen={view.chosen}
      filter={filter}
      put={put}
    />
  );
}
