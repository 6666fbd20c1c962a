import { Button } from '@mantine/core';
import type { ReactNode } from 'react';
import { useMay } from '../../frame/useMay';
import { useSheetTools } from '../SheetContext';

interface ActionTitleProps {
  readonly at: number;
  /** Whether the rule has no other action, so that this one stays. */
  readonly alone: boolean;
  readonly children: ReactNode;
}

/** What an action does, in words: “then write to each booking”. */
export function ActionTitle({ at, alone, children }: ActionTitleProps) {
  const { edit } = useSheetTools();
  const mayChange = useMay('rules.edit');
  return (
    <>
      <span className="word">then</span>
      {children}
      {mayChange && !alone && (
        <Button
          variant="subtle"
          color="rust"
          size="compact-xs"
          aria-label={`Remove action ${at + 1}`}
          onClick={() =>
            edit((body) => ({ ...body, actions: body.actions.filter((_action, index) => index !== at) }))
          }
        >
          Remove
        </Button>
      )}
    </>
  );
}
