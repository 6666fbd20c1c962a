import {
  DndContext,
  DragOverlay,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import { useState, type ReactNode } from 'react';
import { printPath } from '@vast-knot/core';
import type { Dragged, DropPlace } from './useLineDrag';

interface DragAreaProps {
  readonly onDrop: (dragged: Dragged, place: DropPlace) => void;
  readonly children: ReactNode;
}

/**
 * Where values of the payload and lines can be dragged onto target fields. All of it can be done with the keyboard too:
 * values are pressed, lines copied and pasted.
 */
export function DragArea({ onDrop, children }: DragAreaProps) {
  // A press is no drag yet, so that names can still be pressed.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const [dragged, setDragged] = useState<Dragged>();
  const end = ({ active, over }: DragEndEvent) => {
    setDragged(undefined);
    if (over) onDrop(active.data.current as Dragged, over.data.current as DropPlace);
  };
  return (
    <DndContext
      sensors={sensors}
      onDragStart={({ active }) => setDragged(active.data.current as Dragged)}
      onDragCancel={() => setDragged(undefined)}
      onDragEnd={end}
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <span className="chip mono">
            {dragged.kind === 'value' ? printPath(dragged.path.split('.')) : `the line of ${dragged.field}`}
          </span>
        )}
      </DragOverlay>
    </DndContext>
  );
}
