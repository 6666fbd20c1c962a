import { useEffect, useRef, useState, type RefObject } from 'react';

/** Items drawn at first, and further ones each time the end comes near. */
const step = 60;

/**
 * How many items of a long list of unequal heights are drawn: the first ones, and more when the element behind them comes near
 * what is in sight. Far-away items cost nothing to open.
 */
export function useGrowing(count: number): {
  readonly shown: number;
  readonly end: RefObject<HTMLDivElement | null>;
} {
  const [shown, setShown] = useState(step);
  const end = useRef<HTMLDivElement>(null);
  const more = shown < count;
  useEffect(() => {
    const element = end.current;
    if (!element || !more) return;
    const observer = new IntersectionObserver(
      (entries) => {
        if (entries.some(({ isIntersecting }) => isIntersecting)) setShown((known) => known + step);
      },
      { rootMargin: '1200px' },
    );
    observer.observe(element);
    return () => observer.disconnect();
    // Observed anew after each growth: an end that stays in sight tells of no change.
  }, [more, shown]);
  return { shown: Math.min(shown, count), end };
}
