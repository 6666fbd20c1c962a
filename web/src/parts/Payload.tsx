import type { ReactNode } from 'react';
import { leafFields, readPath, type ChangeEvent, type JsonObject, type RecordType } from '@vast-knot/core';
import { Change, Value } from './Value';

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
      !field.keptBySystem && (readPath(event.record, path) !== undefined || event.changed.includes(path)),
  );
  return (
    <table className="payload">
      <tbody>
        {leaves.map(({ path, label }) => (
          <tr key={path}>
            <td className="name" title={label}>
              {nameOf(path)}
            </td>
            <td>
              <Held
                record={event.record}
                before={event.before}
                path={path}
                changed={event.changed.includes(path)}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface HeldProps {
  readonly record: JsonObject;
  readonly before: JsonObject | undefined;
  readonly path: string;
  readonly changed: boolean;
}

function Held({ record, before, path, changed }: HeldProps) {
  return changed && before ? (
    <Change before={readPath(before, path)} after={readPath(record, path)} />
  ) : (
    <Value json={readPath(record, path)} tone={changed ? 'will' : 'plain'} />
  );
}
