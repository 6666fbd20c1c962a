import { Button } from '@mantine/core';
import type { ReactNode } from 'react';
import type { Theirs } from './useSavedDraft';

interface TheirDraftProps {
  /** What was changed: `this rule`. */
  readonly what: string;
  readonly theirs: Theirs<unknown>;
  /** Both, side by side. */
  readonly children: ReactNode;
}

/** That somebody else changed what is edited here: both, and which of the two is to stand. */
export function TheirDraft({ what, theirs: { by, take, saveOver }, children }: TheirDraftProps) {
  return (
    <section className="note wrong" role="alert" aria-label="Changed by somebody else">
      <p className="flush">
        {by} changed {what} meanwhile. What you typed stands below, and is not saved yet: choose which of the
        two is to stand.
      </p>
      {children}
      <div className="field-tools">
        <Button size="compact-sm" variant="default" onClick={take}>
          Take theirs; undo brings yours back
        </Button>
        <Button size="compact-sm" onClick={saveOver}>
          Save mine over it
        </Button>
      </div>
    </section>
  );
}
