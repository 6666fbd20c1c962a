import { digits } from './habits';
import { Verdict, type VerdictTone } from './Verdict';
import './judged.css';

/** How many stand in one way; pressed, the list beside it is narrowed to these. */
export interface StandingBar {
  readonly key: string;
  readonly tone: VerdictTone;
  readonly word: string;
  readonly number: number;
  /** Of the longest, from 0 to 1. */
  readonly share: number;
  readonly pressed: boolean;
  readonly press: () => void;
}

/** How many of what was judged stand how, as bars that narrow a list. */
export function StandingBars({
  label,
  bars,
}: {
  readonly label: string;
  readonly bars: readonly StandingBar[];
}) {
  return (
    <div className="standings" role="group" aria-label={label}>
      {bars.map(({ key, tone, word, number, share, pressed, press }) => (
        <button key={key} type="button" className="standing-bar" aria-pressed={pressed} onClick={press}>
          <Verdict tone={tone}>{word}</Verdict>
          <span className="mono number">{digits(number)}</span>
          <span className={`measure ${tone}`} style={{ width: `${share * 100}%` }} aria-hidden />
        </button>
      ))}
    </div>
  );
}
