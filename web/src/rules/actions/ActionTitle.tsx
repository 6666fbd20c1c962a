import type { ReactNode } from 'react';
import { PartTools } from '../part/PartTools';

interface ActionTitleProps {
  readonly at: number;
  /** How many actions the rule has. */
  readonly count: number;
  /** The name and the type of its record, where they are said with it. */
  readonly settings?: ReactNode;
  readonly children: ReactNode;
}

/** What an action does, in words: “then write to each booking”. */
export function ActionTitle({ at, count, settings, children }: ActionTitleProps) {
  return (
    <>
      <span className="word">then</span>
      {children}
      <PartTools of="actions" at={at} count={count} called={`action ${at + 1}`}>
        {settings}
      </PartTools>
    </>
  );
}
