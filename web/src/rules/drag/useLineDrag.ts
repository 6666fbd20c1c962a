import { useDraggable, useDroppable } from '@dnd-kit/core';

/** What is dragged on the sheet: a value of the sample's payload, the line of a target field, or a whole find or action. */
export type Dragged =
  | { readonly kind: 'value'; readonly path: string }
  | { readonly kind: 'line'; readonly action: number; readonly field: string }
  | ({ readonly kind: 'part'; readonly called: string } & PartAt);

/** Which find or action of the rule. */
interface PartAt {
  readonly of: 'finds' | 'actions';
  readonly at: number;
}

/** Where it can be dropped: onto a target field of an action, or onto another find or action. */
export type DropPlace =
  | { readonly kind: 'field'; readonly action: number; readonly field: string }
  | ({ readonly kind: 'part' } & PartAt);

/** Whether something can be dropped at a place. */
export function accepts(place: DropPlace, dragged: Dragged): boolean {
  if (place.kind === 'field' || dragged.kind !== 'part')
    return place.kind === 'field' && dragged.kind !== 'part';
  return place.of === dragged.of;
}

/** Makes the row of a target field a place to drop on, and its line, if it has one, something to drag. */
export function useLineDrag(action: number, field: string, writable: boolean, hasLine: boolean) {
  const place: DropPlace = { kind: 'field', action, field };
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
