import { Button } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { SignedIn } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys, sessionQuery } from '../api/queries';
import { setTourStep, useTourStep } from './useTour';

/** Remembers that somebody was led, or did not want to be, so that it is not offered again. */
export function useEndVisit(): () => void {
  const client = useQueryClient();
  const habits = useQuery(sessionQuery).data?.habits;
  const save = useMutation({
    mutationFn: () => ask<SignedIn>('/session/habits', { method: 'PUT', body: { ...habits, visited: true } }),
    onSuccess: (signedIn) => client.setQueryData(keys.session, signedIn),
  });
  return () => save.mutate();
}

/** Offers to lead somebody who is here for the first time. */
export function FirstVisit() {
  const habits = useQuery(sessionQuery).data?.habits;
  const step = useTourStep();
  const end = useEndVisit();
  if (!habits || habits.visited || step !== undefined) return null;
  return (
    <div className="note first-visit" role="region" aria-label="First visit">
      <span>
        Your first visit? Follow one change from end to end, in six steps that can be left at any time.
      </span>
      <Button onClick={() => setTourStep(0)}>Show me</Button>
      <Button variant="subtle" onClick={end}>
        Not now
      </Button>
    </div>
  );
}
