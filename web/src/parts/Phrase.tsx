import { Popover } from '@mantine/core';
import { useCallback, useRef, useState, type ReactNode } from 'react';
import type { Right } from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { usePressOutside } from './usePressOutside';

interface PhraseProps {
  /** What the phrase says now. */
  readonly says: ReactNode;
  /** What is edited here, for those who do not see. */
  readonly label: string;
  readonly width?: number;
  /** The right that editing wants. */
  readonly right?: Right;
  /** Looks like a button with a picture, not like a word of the sentence. */
  readonly plain?: boolean;
  /** The editor; where it ends with a press, it is given what closes it. */
  readonly children: ReactNode | ((close: () => void) => ReactNode);
}

/** A phrase of a sheet: reads as text, and opens its editor where it stands when pressed. */
export function Phrase({
  says,
  label,
  width = 320,
  right = 'rules.edit',
  plain = false,
  children,
}: PhraseProps) {
  const [open, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const close = useCallback(() => setOpen(false), []);
  const mayChange = useMay(right);
  usePressOutside(open, button, close);
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
          className={plain ? 'phrase-icon' : 'phrase'}
          aria-label={label}
          disabled={!mayChange}
          onClick={() => setOpen(!open)}
        >
          {says}
        </button>
      </Popover.Target>
      <Popover.Dropdown className="phrase-editor">
        {typeof children === 'function' ? children(close) : children}
      </Popover.Dropdown>
    </Popover>
  );
}
