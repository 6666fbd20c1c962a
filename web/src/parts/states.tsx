import { Button, Loader } from '@mantine/core';
import type { ReactNode } from 'react';
import { sentenceOf } from '../api/client';

/** What to show while there is nothing yet. */
export function Loading() {
  return (
    <div className="empty" role="status">
      <Loader size="xs" aria-hidden /> <span className="dim">Loading …</span>
    </div>
  );
}

/** A failure in a sentence, with another try where one helps. */
export function Failure({ error, again }: { readonly error: unknown; readonly again?: () => void }) {
  return (
    <div className="note wrong" role="alert">
      {sentenceOf(error)}{' '}
      {again && (
        <Button variant="subtle" color="rust" onClick={again}>
          Try again
        </Button>
      )}
    </div>
  );
}

/** An empty place says what to do first. */
export function Empty({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <div className="empty">
      <h2>{title}</h2>
      <div className="dim">{children}</div>
    </div>
  );
}
