import { IconUsers } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { PresenceAsked, PresenceKind, PresenceView } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';

/** By this the server knows one tab from another. */
const tab = crypto.randomUUID();
const everyMs = 15_000;

/** Who else has this open at the moment. Nothing where nobody has. */
export function AlsoHere({ kind, of }: { readonly kind: PresenceKind; readonly of: string }) {
  // A role that may not ask is not refused, and written down, four times a minute.
  const mayAsk = useMay('systems.read');
  const others = useQuery({
    queryKey: keys.presence(kind, of),
    queryFn: () =>
      ask<PresenceView[]>('/presence', {
        method: 'PUT',
        body: { tab, kind, key: of } satisfies PresenceAsked,
      }),
    enabled: mayAsk,
    refetchInterval: everyMs,
    refetchIntervalInBackground: true,
    staleTime: 0,
    gcTime: 0,
    retry: false,
  });
  useEffect(() => {
    // Whoever goes away says so; who cannot is forgotten soon.
    const leave = () =>
      void ask(`/presence/${tab}`, { method: 'DELETE', keepalive: true }).catch(() => undefined);
    window.addEventListener('pagehide', leave);
    return () => {
      window.removeEventListener('pagehide', leave);
      leave();
    };
  }, [kind, of]);
  if (!others.data || others.data.length === 0) return null;
  const names = others.data.map(({ person }) => person);
  return (
    <span className="also-here" role="status">
      <IconUsers size={14} aria-hidden /> {names.join(', ')} {names.length === 1 ? 'has' : 'have'} this open
      too
    </span>
  );
}
