import type { ReconcileFilter, ReconcileView } from '@vast-knot/core';
import type { AddressChanges } from '../parts/useAddress';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import { standingOrder, standingWords } from './standingWords';
import { digits } from '../parts/habits';

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
  return (
    <div className="standings" role="group" aria-label="How the records stand">
      {standingOrder.map((standing) => {
        const [tone, word] = standingWords[standing];
        const number = view.counts[standing];
        return (
          <Bar
            key={standing}
            pressed={filter.standing === standing}
            press={() => put({ standing: filter.standing === standing ? '' : standing, outcome: '' })}
            {...{ tone, word, number, share: number / all }}
          />
        );
      })}
      {view.chosen > 0 &&
        outcomes
          .filter(([outcome, of]) => view[of] > 0 || outcome === 'written')
          .map(([outcome, of, tone, word]) => (
            <Bar
              key={outcome}
              pressed={filter.outcome === outcome}
              press={() => put({ outcome: filter.outcome === outcome ? '' : outcome, standing: '' })}
              {...{ tone, word, number: view[of], share: view[of] / view.chosen }}
            />
          ))}
    </div>
  );
}

interface BarProps {
  readonly pressed: boolean;
  readonly press: () => void;
  readonly tone: VerdictTone;
  readonly word: string;
  readonly number: number;
  /** Of the longest, from 0 to 1. */
  readonly share: number;
}

function Bar({ pressed, press, tone, word, number, share }: BarProps) {
  return (
    <button type="button" className="standing-bar" aria-pressed={pressed} onClick={press}>
      <Verdict tone={tone}>{word}</Verdict>
      <span className="mono number">{digits(number)}</span>
      <span className={`measure ${tone}`} style={{ width: `${share * 100}%` }} aria-hidden />
    </button>
  );
}
