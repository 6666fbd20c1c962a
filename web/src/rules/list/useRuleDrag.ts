import { useDraggable, useDroppable } from '@dnd-kit/core';
import type { ListedRule } from './ruleList';

/** A rule that is dragged, or another one onto which it is. */
export interface DraggedRule {
  readonly id: string;
  readonly type: string;
  readonly name: string;
}

/** Lets a rule whose order matters be dragged, and others of its record type be dropped onto it. */
export function useRuleDrag({ rule: { id, draft }, type, place }: ListedRule) {
  const data: DraggedRule = { id, type, name: draft.name };
  const drop = useDroppable({ id: `onto ${id}`, data, disabled: !place });
  const drag = useDraggable({ id: `rule ${id}`, data, disabled: !place });
  const dragged = drop.active?.data.current as DraggedRule | undefined;
  return {
    over: drop.isOver && dragged?.type === type,
    listeners: drag.listeners,
    setDragNode: drag.setNodeRef,
    setDropNode: drop.setNodeRef,
  };
}
