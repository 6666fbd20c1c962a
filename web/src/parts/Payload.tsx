import { leafFields, readPath, type ChangeEvent, type JsonObject, type RecordType } from '@vast-knot/core';
import { Change, Value } from './Value';

interface PayloadProps {
  readonly type: RecordType | undefined;
  readonly event: ChangeEvent;
  /** Takes the name of a pressed field into the formula at hand. */
  readonly onUse?: ((path: string) => void) | undefined;
}

/** The record of an event, field by field, with the changed ones marked. */
export function Payload({ type, event, onUse }: PayloadProps) {
  const leaves = leafFields(type?.fields ?? []).filter(
    ({ path, field }) =>
      !field.keptBySystem && (readPath(event.record, path) !== undefined || event.changed.includes(path)),
  );
  return (
    <table className="payload">
      <tbody>
        {leaves.map(({ path, label }) => (
          <tr key={path}>
            <td style={{ width: 1, whiteSpace: 'nowrap' }} title={label}>
              {onUse ? (
                <button
                  type="button"
                  className="use mono"
                  onMouseDown={(pressed) => pressed.preventDefault()}
                  onClick={() => onUse(path)}
                  aria-label={`Use ${path}`}
                >
                  {path}
                </button>
              ) : (
                <span className="mono">{path}</span>
              )}
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
