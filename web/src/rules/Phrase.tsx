import { Popover } from '@mantine/core';
import { useState, type ReactNode } from 'react';
import { useMayChange } from '../frame/useRole';

interface PhraseProps {
  /** What the phrase says now. */
  readonly says: ReactNode;
  /** What is edited here, for those who do not see. */
  readonly label: string;
  readonly width?: number;
  readonly children: ReactNode;
}

/** A phrase of the rule sheet: reads as text, and opens its editor where it stands when pressed. */
export function Phrase({ says, label, width = 320, children }: PhraseProps) {
  const [open, setOpen] = useState(false);
  const mayChange = useMayChange();
  return (
    <Popover opened={open} onChange={setOpen} width={width} position="bottom-start">
      <Popover.Target>
        <button
          type="button"
          className="phrase"
          aria-label={label}
          disabled={!mayChange}
          onClick={() => setOpen(!open)}
        >
          {says}
        </button>
      </Popover.Target>
      <Popover.Dropdown>{children}</Popover.Dropdown>
    </Popover>
  );
}
