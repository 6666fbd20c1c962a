import { NavLink } from 'react-router';

/** What comes in that no system tells by itself: files, and answers of forms. */
export function ArrivalTabs() {
  return (
    <nav className="list-tabs" aria-label="Files and forms">
      <NavLink to="/arrivals" end>
        Files
      </NavLink>
      <NavLink to="/arrivals/forms">Forms</NavLink>
      <NavLink to="/arrivals/sources">Where files come from</NavLink>
    </nav>
  );
}
