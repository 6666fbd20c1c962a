import {
  IconAlertTriangle,
  IconArrowNarrowRight,
  IconCheck,
  IconClock,
  IconMinus,
} from '@tabler/icons-react';
import type { ReactNode } from 'react';

export type VerdictTone = 'will' | 'settled' | 'wrong' | 'quiet' | 'waiting';

const marks = {
  will: IconArrowNarrowRight,
  settled: IconCheck,
  wrong: IconAlertTriangle,
  quiet: IconMinus,
  waiting: IconClock,
} as const;

/** A verdict in a word, with a mark of its own for those who do not see the colour. */
export function Verdict({ tone, children }: { readonly tone: VerdictTone; readonly children: ReactNode }) {
  const Mark = marks[tone];
  return (
    <span className={`verdict ${tone === 'waiting' ? 'will' : tone}`}>
      <Mark size={14} aria-hidden />
      {children}
    </span>
  );
}
