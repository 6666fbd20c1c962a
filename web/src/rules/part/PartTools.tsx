import { useDraggable } from '@dnd-kit/core';
import { Button } from '@mantine/core';
import { IconDots, IconGripVertical } from '@tabler/icons-react';
import type { KeyboardEvent, ReactNode } from 'react';
import { moved, partOf, withoutPart } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { Phrase } from '../../parts/Phrase';
import { tellWithUndo } from '../../parts/toast';
import type { Dragged } from '../drag/useLineDrag';
import { useSheetTools } from '../SheetContext';
import { copyPart } from './copied';

interface PartToolsProps {
  readonly of: 'finds' | 'actions';
  readonly at: number;
  /** How many of its kind the rule has. */
  readonly count: number;
  /** What it is, as others call it: “find 2 (booking)”. */
  readonly called: string;
  /** Its name and type, where it has them. */
  readonly children?: ReactNode;
}

/** What can be done with a find or an action as a whole, in one place: its order, its name and type, copying and removing it. */
export function PartTools({ of, at, count, called, children }: PartToolsProps) {
  const { edit, current } = useSheetTools();
  const mayChange = useMay('rules.edit');
  const dragged: Dragged = { kind: 'part', of, at, called };
  const { listeners, setNodeRef } = useDraggable({ id: `drag ${of}/${at}`, data: dragged });
  if (!mayChange) return null;
  const move = (to: number) => {
    if (to < 0 || to >= count) return;
    edit((body) => moved(body, of, at, to));
    // It is drawn anew at its new place; whoever moves it by keys goes with it.
    requestAnimationFrame(() =>
      document.querySelector<HTMLElement>(`[data-part="${of}/${to}"] .part-grip`)?.focus(),
    );
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const by = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
    if (by === 0 || event.altKey) return;
    event.preventDefault();
    move(at + by);
  };
  const remove = () => {
    const before = current();
    const after = withoutPart(before, of, at);
    edit(() => after);
    tellWithUndo({
      text: `Removed ${called}.`,
      // What was edited meanwhile stays: the part comes back to its place.
      undo: () =>
        edit((body) =>
          of === 'finds'
            ? { ...body, finds: body.finds.toSpliced(at, 0, ...before.finds.slice(at, at + 1)) }
            : { ...body, actions: body.actions.toSpliced(at, 0, ...before.actions.slice(at, at + 1)) },
        ),
    });
  };
  return (
    <span className="part-tools">
      {count > 1 && (
        <button
          type="button"
          className="part-grip"
          ref={setNodeRef}
          {...listeners}
          onKeyDown={onKeyDown}
          title="Drag it to another place, or press ↑ or ↓"
          aria-label={`Order of ${called}: ${at + 1} of ${count}; press ↑ or ↓`}
        >
          <IconGripVertical size={14} aria-hidden />
        </button>
      )}
      <Phrase plain says={<IconDots size={16} aria-hidden />} label={`What to do with ${called}`} width={300}>
        {(close) => (
          <>
            {children}
            <div className="part-deeds">
              <Button variant="default" disabled={at === 0} onClick={() => move(at - 1)}>
                Move up
              </Button>
              <Button variant="default" disabled={at === count - 1} onClick={() => move(at + 1)}>
                Move down
              </Button>
              <Button
                variant="default"
                onClick={() => {
                  close();
                  copyPart(partOf(current(), { of, at }), called);
                }}
              >
                Copy
              </Button>
              {(of === 'finds' || count > 1) && (
                <Button
                  variant="subtle"
                  color="rust"
                  onClick={() => {
                    close();
                    remove();
                  }}
                >
                  Remove
                </Button>
              )}
            </div>
          </>
        )}
      </Phrase>
    </span>
  );
}
