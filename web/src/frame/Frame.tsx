import { ActionIcon, Button, Tooltip, useComputedColorScheme, useMantineColorScheme } from '@mantine/core';
import { finder } from '../palette/finder';
import { IconHelp, IconMoon, IconSearch, IconSun } from '@tabler/icons-react';
import { useMutation } from '@tanstack/react-query';
import { Suspense } from 'react';
import { NavLink, Outlet, useLocation } from 'react-router';
import type { SignedIn } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { leaving } from '../api/queries';
import { useNotices } from '../api/stream';
import { AboutPlace } from '../help/AboutPlace';
import { useAboutPlace } from '../help/useAboutPlace';
import { Loading } from '../parts/states';
import { Palette } from '../palette/Palette';
import { useEndVisit } from '../tour/FirstVisit';
import { Tour } from '../tour/Tour';
import { PausedBanner } from '../pauses/PausedBanner';
import { AwayBanner } from './AwayBanner';
import { EnvironmentMark } from './EnvironmentMark';

const places = [
  ['/today', 'Today'],
  ['/systems', 'Systems'],
  ['/tables', 'Tables'],
  ['/rules', 'Rules'],
  ['/bench', 'Bench'],
  ['/runs', 'Runs'],
  ['/arrivals', 'Arrivals'],
] as const;

/** The bar of places, in the order of the work, and the place at hand below it. */
export function Frame({ user }: { readonly user: SignedIn }) {
  useNotices();
  const about = useAboutPlace();
  const endVisit = useEndVisit();
  const { pathname } = useLocation();
  const signOut = useMutation({
    mutationKey: leaving,
    mutationFn: () => ask('/session', { method: 'DELETE' }),
    // A fresh page holds nothing of the person who left.
    onSuccess: () => window.location.assign('/'),
  });
  return (
    <div className="frame">
      <header className="topbar">
        <a href="#place" className="skip">
          Skip to the content
        </a>
        <NavLink to="/" className="brand">
          <img src="/knot.svg" alt="" width={22} /> Vast Knot
        </NavLink>
        <nav aria-label="Places">
          {places.map(([path, name]) => (
            <NavLink
              key={path}
              to={path}
              className={({ isActive }) => (isActive || belongs(pathname, path) ? 'active' : '')}
            >
              {name}
            </NavLink>
          ))}
        </nav>
        <div className="end">
          <EnvironmentMark {...user.environment} />
          <Tooltip label="Find anything (Ctrl+K)">
            <ActionIcon variant="subtle" aria-label="Find anything" onClick={finder.open}>
              <IconSearch size={16} />
            </ActionIcon>
          </Tooltip>
          <Tooltip label="About this place (?)">
            <ActionIcon variant="subtle" aria-label="About this place" onClick={about.open}>
              <IconHelp size={16} />
            </ActionIcon>
          </Tooltip>
          <SchemeSwitch />
          <NavLink to="/me" className="small" title="You, people and this environment">
            {user.name}
            {user.role.key === 'viewer' && ' (may read)'}
          </NavLink>
          {signOut.error && (
            <span className="value wrong" role="alert">
              Still signed in: {sentenceOf(signOut.error)}
            </span>
          )}
          <Button variant="subtle" loading={signOut.isPending} onClick={() => signOut.mutate()}>
            Sign out
          </Button>
        </div>
      </header>
      <div className="banners">
        <PausedBanner />
        <AwayBanner />
        <Tour onEnd={endVisit} />
      </div>
      <Palette />
      <AboutPlace opened={about.opened} onClose={about.close} />
      <main id="place" tabIndex={-1}>
        <Suspense fallback={<Loading />}>
          <Outlet />
        </Suspense>
      </main>
    </div>
  );
}

/** The record view and the outside addresses belong to the systems, and failures, messages and reconciles to the runs. */
function belongs(pathname: string, path: string): boolean {
  return (
    (path === '/systems' && (pathname === '/records' || /^\/(addresses|telling)/.test(pathname))) ||
    (path === '/runs' && /^\/(messages|reconcile|failures)/.test(pathname))
  );
}

function SchemeSwitch() {
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme('light');
  const other = scheme === 'light' ? 'dark' : 'light';
  return (
    <Tooltip label={`Use ${other} colours`}>
      <ActionIcon variant="subtle" aria-label={`Use ${other} colours`} onClick={() => setColorScheme(other)}>
        {scheme === 'light' ? <IconMoon size={16} /> : <IconSun size={16} />}
      </ActionIcon>
    </Tooltip>
  );
}
