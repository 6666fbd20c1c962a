import { Popover } from '@mantine/core';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import type { Right } from '@vast-knot/core';
import { useMay } from '../frame/useMay';

interface PhraseProps {
  /** What the phrase says now. */
  readonly says: ReactNode;
  /** What is edited here, for those who do not see. */
  readonly label: string;
  readonly width?: number;
  /** The right that editing wants. */
  readonly right?: Right;
  readonly children: ReactNode;
}

/** A phrase of a sheet: reads as text, and opens its editor where it stands when pressed. */
export function Phrase({ says, label, width = 320, right = 'rules.edit', children }: PhraseProps) {
  const [open, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const mayChange = useMay(right);
  useEffect(() => {
    if (!open) return;
    const press = ({ target }: MouseEvent) => {
      // Lists of choices are drawn apart from the editor that they belong to, and so is the editor.
      const within =
        target instanceof Element &&
        (target.closest('[data-portal]') !== null || button.current?.contains(target));
      if (!within) setOpen(false);
    };
    document.addEventListener('mousedown', press);
    return () => document.removeEventListener('mousedown', press);
  }, [open]);
  return (
    <Popover
      opened={open}
      onChange={setOpen}
      closeOnClickOutside={false}
      width={width}
      position="bottom-start"
    >
      <Popover.Target>
        <button
          ref={button}
          type="button"
          className="phrase"
          aria-label={label}
          disabled={!mayChange}
          onClick={() => setOpen(!open)}
        >
          {says}
        </button>
      </Popover.Target>
      <Popover.Dropdown className="phrase-editor">{children}</Popover.Dropdown>
    </Popover>
  );
}
