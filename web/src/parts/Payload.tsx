import type { ReactNode } from 'react';
import { leafFields, readPath, type ChangeEvent, type Field, type RecordType } from '@vast-knot/core';
import { FieldChange, FieldValue } from './FieldValue';
import { isRows } from './ListRows';

function plainName(path: string): ReactNode {
  return <span className="mono">{path}</span>;
}

interface PayloadProps {
  readonly type: RecordType | undefined;
  readonly event: ChangeEvent;
  /** How the name of a field is shown, where it is more than read. */
  readonly nameOf?: (path: string) => ReactNode;
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
        {leaves.map(({ path, label, field }) => {
          const held = <Held event={event} path={path} field={field} label={label} nameOf={nameOf} />;
          // Rows want the whole width.
          return isRows(readPath(event.record, path)) || isRows(readPath(event.before, path)) ? (
            <tr key={path}>
              <td colSpan={2}>
                <div className="name" title={label}>
                  {nameOf(path)}
                </div>
                {held}
              </td>
            </tr>
          ) : (
            <tr key={path}>
              <td className="name" title={label}>
                {nameOf(path)}
              </td>
              <td>{held}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** Returns whether a field changed, as a whole or within. */
function isChanged(path: string, { changed }: ChangeEvent): boolean {
  return changed.some((one) => one === path || one.startsWith(`${path}.`));
}

interface HeldProps {
  readonly event: ChangeEvent;
  readonly path: string;
  readonly field: Field;
  readonly label: string;
  readonly nameOf: (path: string) => ReactNode;
}

function Held({ event, path, field, label, nameOf }: HeldProps) {
  const { record, before } = event;
  const changed = isChanged(path, event);
  const shown = {
    field,
    label,
    json: readPath(record, path),
    nameOf: (name: string) => nameOf(`${path}.${name}`),
  };
  return changed && before ? (
    <FieldChange {...shown} before={readPath(before, path)} />
  ) : (
    <FieldValue {...shown} tone={changed ? 'will' : 'plain'} />
  );
}
