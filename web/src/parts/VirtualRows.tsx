import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';

interface VirtualRowsProps<T> {
  readonly items: readonly T[];
  /** What tells an item from every other: a row stays that of its item when the list is narrowed while somebody presses it. */
  readonly keyOf: (item: T) => string | number;
  /** In pixels; told item by item where they are of several kinds. */
  readonly rowHeight: number | ((item: T) => number);
  readonly label: string;
  readonly row: (item: T) => ReactNode;
  /** Whether the rows are only read, so that the list itself takes the focus to be scrolled with keys. */
  readonly onlyRead?: boolean;
  /** The row that has to be in sight when the list comes up, and whenever its key becomes another one. */
  readonly inSight?: { readonly key: string; readonly index: number };
  /** Called when the end comes near and there is more to fetch. */
  readonly more?: (() => void) | undefined;
}

/** So much is drawn above and below what is in sight: high rows hold more, and fewer of them will do. */
const beyondPx = 240;
/** How high rows of several kinds mostly are. */
const usualPx = 58;

/** A list that draws only the rows in sight, so that tens of thousands stay smooth. */
export function VirtualRows<T>({
  items,
  keyOf,
  rowHeight,
  label,
  row,
  onlyRead = false,
  inSight,
  more,
}: VirtualRowsProps<T>) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made to be read while rendering
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => {
      if (typeof rowHeight === 'number') return rowHeight;
      const item = items[index];
      return item === undefined ? 0 : rowHeight(item);
    },
    overscan: Math.min(12, Math.ceil(beyondPx / (typeof rowHeight === 'number' ? rowHeight : usualPx))),
  });
  const lastInSight = useRef('');
  useEffect(() => {
    if (!inSight || inSight.index < 0 || lastInSight.current === inSight.key) return;
    lastInSight.current = inSight.key;
    virtual.scrollToIndex(inSight.index, { align: 'auto' });
  }, [virtual, inSight]);
  const shown = virtual.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && items.length > 0 && last >= items.length - 20) more();
  }, [more, last, items.length]);
  return (
    <div ref={scroller} className="virtual-rows" tabIndex={onlyRead ? 0 : -1}>
      <div className="rows" role="list" aria-label={label} style={{ height: virtual.getTotalSize() }}>
        {shown.map(({ index, start, size }) => {
          const item = items[index];
          return item === undefined ? null : (
            <div
              key={keyOf(item)}
              role="listitem"
              className="row-in-sight"
              style={{ top: start, height: size }}
            >
              {row(item)}
            </div>
          );
        })}
      </div>
    </div>
  );
}
