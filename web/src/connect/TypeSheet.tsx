import { Button } from '@mantine/core';
import type { ReactNode } from 'react';
import type { RecordType } from '@vast-knot/core';

interface TypeSheetProps {
  readonly type: RecordType | undefined;
  readonly isTaken: boolean;
  readonly choose: (type: string) => void;
  readonly children: (type: RecordType) => ReactNode;
}

/** The statements of the record type at hand. */
export function TypeSheet({ type, isTaken, choose, children }: TypeSheetProps) {
  if (!type) return null;
  return isTaken ? (
    <section aria-label={`How ${type.plural} are reached`} className="type-sheet">
      <h2>
        {type.plural} <span className="mono dim">{type.name}</span>
      </h2>
      {children(type)}
    </section>
  ) : (
    <p className="dim">
      {type.plural} are not taken.{' '}
      <Button variant="subtle" onClick={() => choose('')}>
        Show one that is
      </Button>
    </p>
  );
}
