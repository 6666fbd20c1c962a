import { useSyncExternalStore } from 'react';

/** Where it is kept at which step of the first visit somebody is, so that a reload goes on with it. */
const key = 'vast-knot first visit';
const listeners = new Set<() => void>();

/** Returns the step at hand, counted from 0; undefined where nobody is led. */
function step(): number | undefined {
  const kept = localStorage.getItem(key);
  return kept === null || !/^[0-5]$/.test(kept) ? undefined : Number(kept);
}

/** Leads to a step, or ends the visit. */
export function setTourStep(next: number | undefined): void {
  if (next === undefined) localStorage.removeItem(key);
  else localStorage.setItem(key, String(next));
  for (const told of listeners) told();
}

/** The step at hand of the first visit. */
export function useTourStep(): number | undefined {
  return useSyncExternalStore((told) => {
    listeners.add(told);
    return () => listeners.delete(told);
  }, step);
}
