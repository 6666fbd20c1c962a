import { Link } from 'react-router';
import { useSystems, useSystemsHealth } from '../api/queries';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';

/** Says on every page which systems are away, what waits for them, and that the others go on. */
export function AwayBanner() {
  const health = useSystemsHealth().data ?? [];
  const systems = useSystems().data ?? [];
  const away = health.filter(({ standing }) => standing === 'away');
  if (away.length === 0) return null;
  return (
    <div className="away" role="status">
      {away.map(({ system, since, waiting, nextTry }) => (
        <span key={system}>
          <Verdict tone="wrong">
            <Link to={`/systems/${system}`}>{systems.find(({ key }) => key === system)?.name ?? system}</Link>{' '}
            does not answer
          </Verdict>
          {since && ` since ${shortTime(since)}`}. {count(waiting, 'event waits', 'events wait')} for it
          {nextTry && `; next try at ${shortTime(nextTry)}`}.
        </span>
      ))}{' '}
      <span className="dim">Everything else goes on.</span>
    </div>
  );
}
