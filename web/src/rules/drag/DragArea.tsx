import {
  DndContext,
  DragOverlay,
  pointerWithin,
  PointerSensor,
  useSensor,
  useSensors,
  type CollisionDetection,
  type DragEndEvent,
} from '@dnd-kit/core';
import { useState, type ReactNode, type RefObject } from 'react';
import { printPath } from '@vast-knot/core';
import { accepts, type Dragged, type DropPlace } from './useLineDrag';

export type OnDrop = (dragged: Dragged, place: DropPlace) => void;

interface DragAreaProps {
  /** What a drop does, as the sheet says at the time. */
  readonly dropRef: RefObject<OnDrop | null>;
  readonly children: ReactNode;
}

/** The sheet scrolls under a drag only at its very edge, so that what is aimed at stays where it is. */
const onlyAtTheEdge = { threshold: { x: 0, y: 0.05 } };

/** Places that do not take what is dragged are none. */
const whereItFits: CollisionDetection = (args) =>
  pointerWithin({
    ...args,
    droppableContainers: args.droppableContainers.filter(({ data }) =>
      accepts(data.current as DropPlace, args.active.data.current as Dragged),
    ),
  });

/** A press is no drag yet, so that names can still be pressed. One object, or all rows would be drawn with each keystroke. */
const afterSomeWay = { activationConstraint: { distance: 6 } };

/**
 * Where values of the payload and lines can be dragged onto target fields, and finds and actions to another place. All of it can be done
 * with the keyboard too: values are pressed, lines copied and pasted, finds and actions moved by ↑ and ↓.
 */
export function DragArea({ dropRef, children }: DragAreaProps) {
  const sensors = useSensors(useSensor(PointerSensor, afterSomeWay));
  const [dragged, setDragged] = useState<Dragged>();
  const end = ({ active, over }: DragEndEvent) => {
    setDragged(undefined);
    if (over) dropRef.current?.(active.data.current as Dragged, over.data.current as DropPlace);
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={whereItFits}
      autoScroll={onlyAtTheEdge}
      onDragStart={({ active }) => setDragged(active.data.current as Dragged)}
      onDragCancel={() => setDragged(undefined)}
      onDragEnd={end}
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {dragged && <span className="chip mono dragged">{wordsOf(dragged)}</span>}
      </DragOverlay>
    </DndContext>
  );
}

function wordsOf(dragged: Dragged): string {
  switch (dragged.kind) {
    case 'value':
      return printPath(dragged.path.split('.'));
    case 'line':
      return `the line of ${dragged.field}`;
    case 'part':
      return dragged.called;
  }
}
