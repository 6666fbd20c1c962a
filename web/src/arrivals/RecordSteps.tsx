import { ActionIcon } from '@mantine/core';
import { IconChevronLeft, IconChevronRight } from '@tabler/icons-react';
import type { ReactNode } from 'react';
import { digits } from '../parts/habits';

interface RecordStepsProps {
  readonly place: string;
  readonly count: number;
  readonly at: number;
  readonly go: (at: number) => void;
  /** What is said of the record. */
  readonly children?: ReactNode;
}

/** Which of the first records of a file is shown, with the one before and the next. */
export function RecordSteps({ place, count, at, go, children }: RecordStepsProps) {
  return (
    <header className="list-head">
      <ActionIcon variant="default" aria-label="Record before" disabled={at <= 0} onClick={() => go(at - 1)}>
        <IconChevronLeft size={14} />
      </ActionIcon>
      <strong>{place}</strong>
      <span className="small dim">of the first {digits(count)}</span>
      <ActionIcon
        variant="default"
        aria-label="Next record"
        disabled={at >= count - 1}
        onClick={() => go(at + 1)}
      >
        <IconChevronRight size={14} />
      </ActionIcon>
      {children}
    </header>
  );
}
