import { useDroppable } from '@dnd-kit/core';
import type { ReactNode } from 'react';
import type { DropPlace } from '../drag/useLineDrag';

interface PartPlaceProps {
  readonly of: 'finds' | 'actions';
  readonly at: number;
  readonly className: string;
  readonly children: ReactNode;
}

/** Where a find or an action of the rule stands; another one of its kind can be dropped onto it, and then stands there. */
export function PartPlace({ of, at, className, children }: PartPlaceProps) {
  const place: DropPlace = { kind: 'part', of, at };
  const { isOver, setNodeRef } = useDroppable({ id: `part ${of}/${at}`, data: place });
  return (
    <div ref={setNodeRef} className={isOver ? `${className} part-over` : className} data-part={`${of}/${at}`}>
      {children}
    </div>
  );
}
