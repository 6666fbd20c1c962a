import { ActionIcon, Button, Tooltip, useComputedColorScheme, useMantineColorScheme } from '@mantine/core';
import { useHotkeys } from '@mantine/hooks';
import { IconMoon, IconSearch, IconSun } from '@tabler/icons-react';
import { useMutation } from '@tanstack/react-query';
import { Suspense } from 'react';
import { NavLink, Outlet, useLocation, useNavigate } from 'react-router';
import type { SignedIn } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useNotices } from '../api/stream';
import { Loading } from '../parts/states';
import { PausedBanner } from '../pauses/PausedBanner';
import { AwayBanner } from './AwayBanner';

const places = [
  ['/today', 'Today'],
  ['/systems', 'Systems'],
  ['/tables', 'Tables'],
  ['/rules', 'Rules'],
  ['/bench', 'Bench'],
  ['/runs', 'Runs'],
] as const;

/** The bar of places, in the order of the work, and the place at hand below it. */
export function Frame({ user }: { readonly user: SignedIn }) {
  useNotices();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  // From wherever one is, also out of a field.
  useHotkeys([['mod+K', () => void navigate('/values')]], []);
  const signOut = useMutation({
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
          <Tooltip label="Where is this value? (Ctrl+K)">
            <ActionIcon variant="subtle" aria-label="Where is this value?" component={NavLink} to="/values">
              <IconSearch size={16} />
            </ActionIcon>
          </Tooltip>
          <SchemeSwitch />
          <span className="dim small">
            {user.name}
            {user.role === 'reader' && ' (may read)'}
          </span>
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
      </div>
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
