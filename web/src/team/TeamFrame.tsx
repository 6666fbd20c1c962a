import { NavLink, Outlet } from 'react-router';
import type { Right } from '@vast-knot/core';
import { useRights } from '../frame/useMay';
import './team.css';

const places: readonly (readonly [address: string, name: string, right: Right | undefined])[] = [
  ['/me', 'You', undefined],
  ['/people', 'People', 'people.read'],
  ['/roles', 'Roles', 'people.read'],
  ['/environment', 'This environment', 'environment.change'],
  ['/moving', 'Moving work', 'rules.read'],
  ['/audit', 'What was done', 'audit.read'],
];

/** What is about people and this environment rather than about the work: a list of pages, and the one at hand beside it. */
export function TeamFrame() {
  const mine = useRights();
  return (
    <div className="split systems-beside">
      <nav aria-label="People and environment" className="side-list">
        {places
          .filter(([, , right]) => right === undefined || mine.has(right))
          .map(([address, name]) => (
            <NavLink
              key={address}
              to={address}
              className={({ isActive }) => `row side-entry ${isActive ? 'active' : ''}`}
            >
              {name}
            </NavLink>
          ))}
      </nav>
      <div>
        <Outlet />
      </div>
    </div>
  );
}
