import type { ReactNode } from 'react';
import { leafFields, readPath, type ChangeEvent, type Field, type RecordType } from '@vast-knot/core';
import { isRows, ListBlocks } from './ListRows';
import { Change, Value } from './Value';

function plainName(path: string, shown = path): ReactNode {
  return <span className="mono">{shown}</span>;
}

interface PayloadProps {
  readonly type: RecordType | undefined;
  readonly event: ChangeEvent;
  /** How the name of a field is shown, where it is more than read; of a field in a list, its own name without that of the list. */
  readonly nameOf?: (path: string, shown?: string) => ReactNode;
}

/** The record of an event, field by field, with the changed ones marked. */
export function Payload({ type, event, nameOf = plainName }: PayloadProps) {
  const leaves = leafFields(type?.fields ?? []).filter(
    ({ path, field }) =>
      !field.keptBySystem && (readPath(event.record, path) !== undefined || isChanged(path, event)),
  );
  return (
    <table className="payload">
      <tbody>
        {leaves.map(({ path, label, field }) =>
          isRows(readPath(event.record, path)) || isRows(readPath(event.before, path)) ? (
            <tr key={path}>
              <td className="whole" colSpan={2}>
                <div className="name" title={label}>
                  {nameOf(path)}
                </div>
                <HeldList event={event} path={path} field={field} label={label} nameOf={nameOf} />
              </td>
            </tr>
          ) : (
            <tr key={path}>
              <td className="name" title={label}>
                {nameOf(path)}
              </td>
              <td>
                <Held event={event} path={path} />
              </td>
            </tr>
          ),
        )}
      </tbody>
    </table>
  );
}

/** Returns whether a field changed, as a whole or within. */
function isChanged(path: string, { changed }: ChangeEvent): boolean {
  return changed.some((one) => one === path || one.startsWith(`${path}.`));
}

function Held({ event, path }: { readonly event: ChangeEvent; readonly path: string }) {
  const { record, before } = event;
  const changed = isChanged(path, event);
  return changed && before ? (
    <Change before={readPath(before, path)} after={readPath(record, path)} />
  ) : (
    <Value json={readPath(record, path)} tone={changed ? 'will' : 'plain'} />
  );
}

interface HeldListProps {
  readonly event: ChangeEvent;
  readonly path: string;
  readonly field: Field;
  readonly label: string;
  readonly nameOf: (path: string, shown?: string) => ReactNode;
}

function HeldList({ event, path, field, label, nameOf }: HeldListProps) {
  const { record, before } = event;
  const changed = isChanged(path, event);
  return (
    <ListBlocks
      field={field}
      label={label}
      json={readPath(record, path)}
      {...(changed && before && { before: readPath(before, path) ?? null })}
      nameOf={(name) => nameOf(`${path}.${name}`, name)}
    />
  );
}
