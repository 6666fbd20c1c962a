import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';

interface VirtualRowsProps<T> {
  readonly items: readonly T[];
  readonly rowHeight: number;
  readonly label: string;
  readonly row: (item: T) => ReactNode;
  /** Whether the rows are only read, so that the list itself takes the focus to be scrolled with keys. */
  readonly onlyRead?: boolean;
  /** Called when the end comes near and there is more to fetch. */
  readonly more?: (() => void) | undefined;
}

/** A list that draws only the rows in sight, so that tens of thousands stay smooth. */
export function VirtualRows<T>({
  items,
  rowHeight,
  label,
  row,
  onlyRead = false,
  more,
}: VirtualRowsProps<T>) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made to be read while rendering
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  });
  const shown = virtual.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && items.length > 0 && last >= items.length - 20) more();
  }, [more, last, items.length]);
  return (
    <div ref={scroller} style={{ overflow: 'auto', height: '100%' }} tabIndex={onlyRead ? 0 : -1}>
      <div className="rows" role="list" aria-label={label} style={{ height: virtual.getTotalSize() }}>
        {shown.map(({ index, start }) => {
          const item = items[index];
          return item === undefined ? null : (
            <div
              key={index}
              role="listitem"
              style={{
                position: 'absolute',
                top: start,
                left: 0,
                right: 0,
                height: rowHeight,
                display: 'grid',
              }}
            >
              {row(item)}
            </div>
          );
        })}
      </div>
    </div>
  );
}
