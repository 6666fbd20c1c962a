import { digits } from './habits';
import type { AddressChanges } from './useAddress';
import { Verdict, type VerdictTone } from './Verdict';
import './judged.css';

/** How many stand in one way, with the mark and the words for it. */
export interface StandingCount {
  readonly key: string;
  readonly tone: VerdictTone;
  readonly word: string;
  readonly number: number;
}

interface StandingBarsProps {
  readonly label: string;
  readonly standings: readonly StandingCount[];
  /** What became of those that were chosen. */
  readonly outcomes: readonly StandingCount[];
  readonly chosen: number;
  readonly filter: { readonly standing?: string; readonly outcome?: string };
  readonly put: (changes: AddressChanges) => void;
}

/** How many of what was judged stand how, and what became of those that were chosen: as bars, each of which narrows the list. */
export function StandingBars({ label, standings, outcomes, chosen, filter, put }: StandingBarsProps) {
  const most = Math.max(1, ...standings.map(({ number }) => number));
  const bar = ({ key, tone, word, number }: StandingCount, of: 'standing' | 'outcome', whole: number) => {
    const pressed = filter[of] === key;
    const other = of === 'standing' ? 'outcome' : 'standing';
    return (
      <button
        key={`${of} ${key}`}
        type="button"
        className="standing-bar"
        aria-pressed={pressed}
        onClick={() => put({ [of]: pressed ? '' : key, [other]: '' })}
      >
        <Verdict tone={tone}>{word}</Verdict>
        <span className="mono number">{digits(number)}</span>
        <span className={`measure ${tone}`} style={{ width: `${(100 * number) / whole}%` }} aria-hidden />
      </button>
    );
  };
  return (
    <div className="standings" role="group" aria-label={label}>
      {standings.map((each) => bar(each, 'standing', most))}
      {chosen > 0 &&
        outcomes
          .filter(({ key, number }) => number > 0 || key === 'written')
          .map((each) => bar(each, 'outcome', chosen))}
    </div>
  );
}
