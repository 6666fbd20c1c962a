import { useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import type { Sample } from '@vast-knot/core';
import { keys } from '../api/queries';
import { isTyping } from '../parts/isTyping';
import { useKeys } from '../parts/useKeys';

/** Keys of the bench: R replays all, N and P go to the next and previous difference, Alt+. and Alt+, to another sample. */
export function useBenchKeys(samples: readonly Sample[], chosen: string | undefined): void {
  const navigate = useNavigate();
  const client = useQueryClient();
  const step = (by: 1 | -1) => {
    const at = Math.max(
      0,
      samples.findIndex(({ id }) => id === chosen),
    );
    const next = samples[(at + by + samples.length) % samples.length];
    if (next) void navigate({ pathname: `/bench/${next.id}`, search: window.location.search });
  };
  useKeys((event) => {
    if (event.altKey && (event.key === '.' || event.key === ','))
      return () => step(event.key === '.' ? 1 : -1);
    if (event.altKey || event.ctrlKey || event.metaKey || isTyping(event.target)) return undefined;
    switch (event.key.toLowerCase()) {
      case 'r':
        // Everything is fetched anew, and what is fetched is replayed.
        return () => void client.invalidateQueries({ queryKey: keys.samples });
      case 'n':
        return () => toDifference(1);
      case 'p':
        return () => toDifference(-1);
      default:
        return undefined;
    }
  });
}

/** Moves the focus to the next row that is not as expected, or the one before. */
function toDifference(by: 1 | -1): void {
  const rows = [...document.querySelectorAll<HTMLElement>('tr.difference')];
  const at = rows.findIndex((row) => row === document.activeElement);
  const next = rows[at < 0 ? (by === 1 ? 0 : rows.length - 1) : (at + by + rows.length) % rows.length];
  next?.focus();
  next?.scrollIntoView({ block: 'center' });
}
