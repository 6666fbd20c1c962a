import { usePauses } from '../api/queries';
import { useMay } from '../frame/useMay';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { GoOn } from './GoOn';

/** Says on every page that everything is paused, by whom, and what waits. */
export function PausedBanner() {
  const pauses = usePauses().data;
  const mayPause = useMay('runs.pause');
  if (!pauses?.everything) return null;
  const { by, at } = pauses.everything;
  return (
    <div className="paused" role="status">
      <Verdict tone="will">Everything is paused</Verdict>{' '}
      <span>
        by {by} since {shortTime(at)}. {count(pauses.waiting, 'event waits', 'events wait')}; what comes in is
        kept, and nothing is asked, written or sent.
      </span>
      {mayPause && <GoOn path="/pauses/everything/go-on" what="everything" waiting={pauses.waiting} />}
    </div>
  );
}
