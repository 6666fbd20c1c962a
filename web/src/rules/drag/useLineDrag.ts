import { useDraggable, useDroppable } from '@dnd-kit/core';

/** What is dragged on the sheet: a value of the sample's payload, or the line of a target field. */
export type Dragged =
  | { readonly kind: 'value'; readonly path: string }
  | { readonly kind: 'line'; readonly action: number; readonly field: string };

/** Where it can be dropped: onto a target field of an action. */
export interface DropPlace {
  readonly action: number;
  readonly field: string;
}

/** Makes the row of a target field a place to drop on, and its line, if it has one, something to drag. */
export function useLineDrag(action: number, field: string, writable: boolean, hasLine: boolean) {
  const place: DropPlace = { action, field };
  const drop = useDroppable({ id: `target ${action}/${field}`, data: place, disabled: !writable });
  const line: Dragged = { kind: 'line', action, field };
  const drag = useDraggable({ id: `line ${action}/${field}`, data: line, disabled: !hasLine });
  return {
    over: drop.isOver,
    listeners: drag.listeners,
    setDragNode: drag.setNodeRef,
    setDropNode: drop.setNodeRef,
  };
}

/** Makes a name of the payload something to drag. */
export function useValueDrag(path: string) {
  const value: Dragged = { kind: 'value', path };
  const { listeners, setNodeRef } = useDraggable({ id: `value ${path}`, data: value });
  return { listeners, setNodeRef };
}
