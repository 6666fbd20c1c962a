import { DndContext, DragOverlay, pointerWithin, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { useState, type ReactNode } from 'react';
import type { ListLine } from './ruleList';
import type { RowDeeds } from './useRowDeeds';
import type { DraggedRule } from './useRuleDrag';

interface DraggingProps {
  readonly place: RowDeeds['place'];
  readonly lines: readonly ListLine[];
  readonly children: ReactNode;
}

/** Where a rule is dragged onto another of its record type, whose place it takes. The same can be typed as a number. */
export function Dragging({ place, lines, children }: DraggingProps) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const [name, setName] = useState<string>();
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      onDragStart={({ active }) => setName((active.data.current as DraggedRule).name)}
      onDragCancel={() => setName(undefined)}
      onDragEnd={({ active, over }) => {
        setName(undefined);
        const dragged = active.data.current as DraggedRule;
        const target = over?.data.current as DraggedRule | undefined;
        const onto = lines.find((line) => line.kind === 'rule' && line.listed.rule.id === target?.id);
        if (onto?.kind !== 'rule' || onto.listed.type !== dragged.type) return;
        place(dragged.id, onto.listed.place?.at ?? 1);
      }}
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {name !== undefined && <span className="chip dragged">{name}</span>}
      </DragOverlay>
    </DndContext>
  );
}
