import { NavLink } from 'react-router';
import { useWaits } from '../api/queries';
import { count, shortTime } from '../parts/time';

/** What came in, what was sent out, and what waits. */
export function RunsTabs() {
  const waits = useWaits().data ?? [];
  const [next] = waits;
  return (
    <nav className="list-tabs" aria-label="Runs and messages">
      <NavLink to="/runs">Runs</NavLink>
      <NavLink to="/failures">Failures</NavLink>
      <NavLink to="/messages">Messages</NavLink>
      <NavLink to="/reconcile">Reconciles</NavLink>
      {next && (
        <span
          className="small dim"
          title={waits.map(({ rule, ref, due }) => `${rule.name}, ${ref.id}: ${shortTime(due)}`).join('\n')}
        >
          {count(waits.length, 'record')} waited for, the first until {shortTime(next.due)}
        </span>
      )}
    </nav>
  );
}
